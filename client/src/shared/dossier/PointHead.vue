<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { pageOf } from '../../pages'
import { post } from '../api/http'
import { newId, type Point } from '../api/records'
import { useStore } from '../store'
import { useDo } from '../useDo'
import HoldForm from './HoldForm.vue'
import type { Dossier } from './sections'

/** The present value of a point, and what may be done with it. */
const props = defineProps<{ dossier: Dossier; point: Point }>()
const store = useStore()
const router = useRouter()
const attempt = useDo()
const holding = ref(false)
const isHeld = computed(() => store.held.some((h) => h.pointId === props.point.id))
const isSensor = computed(() => props.point.role === 'sensor')
const trend = computed(() => props.dossier.usedBy.find((u) => u.noun === 'trend'))
async function trendIt() {
  if (trend.value) return router.push(pageOf('trend', trend.value.id)!)
  const { id: ownerId, name } = props.point
  const id = newId('trend')
  const body = { cells: [{ id, kind: 'trend', ownerId, field: 'name', text: name, from: 0 }] }
  if (await attempt(() => post('/cells', { body }), `Added a trend of ${name}; send its controller to start it`)) await router.push(pageOf('trend', id)!)
}
</script>

<template>
  <p class="big"><LiveValue :id="`p:${point.id}`" /></p>
  <p class="dim">{{ point.kind }} {{ point.role }}{{ point.description ? ` · ${point.description}` : '' }}</p>
  <p v-if="dossier.networkName" class="dim" title="The name networks show; derived by the naming convention">
    network name <span class="mono">{{ dossier.networkName }}</span>
  </p>
  <p class="acts">
    <NButton v-if="store.may(isSensor ? 'technician' : 'operator')" size="small" data-act="hold" @click="holding = true">
      {{ isHeld ? (isSensor ? 'Simulate otherwise…' : 'Hold at another value…') : isSensor ? 'Simulate…' : 'Hold by hand…' }}
    </NButton>
    <NButton
      v-if="isHeld && store.may('operator')"
      type="primary"
      size="small"
      data-act="release"
      @click="attempt(() => post('/held/release', { body: { pointId: point.id } }), 'Released')"
      >Release</NButton
    >
    <NButton v-if="trend || store.may('engineer')" size="small" @click="trendIt">{{ trend ? 'Show trend' : 'Trend it' }}</NButton>
  </p>
  <HoldForm v-if="holding" :point="point" @done="holding = false" />
</template>

<style scoped>
.big {
  font-size: 23px;
  color: var(--plum);
}
</style>
