<script setup lang="ts">
import { ref } from 'vue'
import { get, type Schemas } from '../api/http'
import { useLoaded } from '../store'

/** What was done to one record, newest first. */
const props = defineProps<{ id: string; revision: number }>()
const open = ref(false)
const { value: past } = useLoaded<Schemas['PastLine'][]>(
  () => (open.value ? get(`/records/${props.id}/past?count=20`) : null),
  () => [props.id, props.revision, open.value],
  [],
)
const when = (at: number) => new Date(at).toLocaleString('en-GB', { day: 'numeric', month: 'short', year: 'numeric', hour: '2-digit', minute: '2-digit' })
</script>

<template>
  <h3>
    Past <button class="btn small" data-past :aria-expanded="open" @click="open = !open">{{ open ? 'Fewer' : 'What was done to it?' }}</button>
  </h3>
  <ol v-if="open && past" class="past">
    <li v-for="p in past" :key="p.revision">
      <b>{{ p.label }}</b>
      <span class="dim">{{ p.author }}, {{ when(Number(p.at)) }}, revision {{ p.revision }}</span>
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
.tiny {
  font-size: 12.5px;
}
</style>
