<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { pageOf } from '../../pages'
import { useShown } from '../api/cache'
import { count } from '../numbers'
import { useStore } from '../store'
import type { Dossier } from './sections'

/** All that depends on this record: directly, and through what a sequence commands or a schedule drives. */
const props = defineProps<{ dossier: Dossier }>()
const store = useStore()
const router = useRouter()
const { value: uses } = useShown('/records/{id}/uses', () => ({ path: { id: props.dossier.record.id } }), 'all')
const direct = computed(() => uses.value?.lines.filter((l) => !l.through) ?? [])
const through = computed(() => uses.value?.lines.filter((l) => l.through) ?? [])
const removing = ref(false)
function removed(done: boolean) {
  removing.value = false
  if (done) store.selected = null
}
function open(noun: string, id: string) {
  const page = pageOf(noun, id)
  if (page) void router.push(page)
  else store.selected = id
}
</script>

<template>
  <p class="acts">
    <NButton v-for="u in direct" :key="u.id" size="small" round :title="`${u.path} · ${u.as}`" @click="open(u.noun, u.id)">{{ u.noun }}: {{ u.name }}</NButton>
    <span v-if="uses && !direct.length" class="dim">Nothing uses it yet.</span>
  </p>
  <template v-if="through.length">
    <h3>And through these</h3>
    <p v-for="u in through" :key="u.id" class="through">
      <NButton text type="info" size="small" :title="u.path" @click="open(u.noun, u.id)">{{ u.noun }} {{ u.name }}</NButton>
      <span class="dim tiny"> by {{ u.through }}</span>
    </p>
    <p v-if="uses!.all > uses!.lines.length" class="dim">and {{ count(uses!.all - uses!.lines.length) }} more</p>
  </template>
  <p v-if="store.may('engineer')" class="acts">
    <NButton size="small" data-act="remove" @click="removing = true">Remove, or put another in its place…</NButton>
  </p>
  <ConfirmRemoval v-if="removing" :ids="[dossier.record.id]" @close="removed" />
</template>

<style scoped>
.through {
  padding: 1px 0;
}
</style>
