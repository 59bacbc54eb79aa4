<script setup lang="ts">
import { computed } from 'vue'
import { useShown } from '../api/cache'
import { useStore } from '../store'
import type { Dossier } from './sections'
import WhyNotForm from './WhyNotForm.vue'

/** Why a point, an alarm, or all that a place or equipment holds, is as it is. */
const props = defineProps<{ dossier: Dossier }>()
const store = useStore()
const id = computed(() => props.dossier.record.id)
const minute = computed(() => Math.floor((store.clock?.now ?? 0) / 60000))
const { value: why } = useShown(
  '/why/{id}',
  () => ({ path: { id: id.value } }),
  ['events', 'point', 'equipment', 'place', 'alarm', 'fitting', 'controller'],
  () => [store.live.get(`p:${id.value}`)?.text, minute.value],
)
const output = computed(() => (props.dossier.record.type === 'point' && props.dossier.record.role !== 'sensor' ? props.dossier.record : null))
const isOfMany = computed(() => !['point', 'alarm'].includes(props.dossier.record.type ?? '') && why.value?.under.length)
</script>

<template>
  <template v-if="why">
    <BecauseTree v-for="(one, i) in isOfMany ? why.under : [why]" :key="i" :because="one" />
    <WhyNotForm v-if="output" :key="id" :point="output" />
  </template>
  <NSkeleton v-else text :repeat="2" />
</template>
