<script setup lang="ts">
import { useShown } from '../api/cache'
import type { Dossier } from './sections'

/** What was done to one record, newest first. */
const props = defineProps<{ dossier: Dossier }>()
const { value: past } = useShown(
  '/records/{id}/past',
  () => ({ path: { id: props.dossier.record.id }, query: { count: 20 } }),
  (change) => change.ids.includes(props.dossier.record.id),
)
const when = (at: number) => new Date(at).toLocaleString('en-GB', { day: 'numeric', month: 'short', year: 'numeric', hour: '2-digit', minute: '2-digit' })
</script>

<template>
  <ol v-if="past" class="past">
    <li v-for="p in past" :key="p.revision">
      <b>{{ p.label }}</b>
      <span class="dim">{{ p.author }}, {{ when(p.at) }}, revision {{ p.revision }}</span>
      <span v-for="f in p.fields.slice(0, 6)" :key="f.words" class="tiny">{{ f.words }}: {{ f.before ?? 'none' }} → {{ f.after ?? 'none' }}</span>
      <span v-if="p.fields.length > 6" class="dim tiny">and {{ p.fields.length - 6 }} more</span>
    </li>
    <li v-if="!past.length" class="dim">Nothing has been done to it since this project keeps a history.</li>
  </ol>
</template>

<style scoped>
.past {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 7px;
}
.past li {
  display: grid;
  overflow-wrap: anywhere;
}
</style>
