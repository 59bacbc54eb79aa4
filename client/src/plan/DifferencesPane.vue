<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, type Schemas } from '../shared/api/http'
import { count } from '../shared/numbers'

/** What differs between two states, record by record: to be narrowed down, printed, taken away as a list. */
const props = defineProps<{ difference: Schemas['DifferenceView']; list: string }>()
const words = ref('')
const signs = { added: '+ added', changed: '~ changed', removed: '− removed' }
const tones = { added: 'decides', changed: '', removed: 'crimson' }
const MOST = 200
const shown = computed(() => {
  const typed = words.value.toLowerCase().split(/\s+/)
  const text = (d: Schemas['RecordDifference']) => `${d.kind} ${d.noun} ${d.name} ${d.path} ${d.fields.map((f) => f.words).join(' ')}`.toLowerCase()
  return props.difference.records.filter((d) => typed.every((w) => text(d).includes(w)))
})
const printIt = () => print()
</script>

<template>
  <div class="printed" aria-label="Differences">
    <p class="acts">
      {{ count(difference.added) }} added, {{ count(difference.changed) }} changed, {{ count(difference.removed) }} removed
      <LinkButton v-if="difference.records.length" size="small" :href="api(list)">CSV</LinkButton>
      <NButton v-if="difference.records.length" size="small" @click="printIt">Print</NButton>
    </p>
    <TextBox v-if="difference.records.length > 8" v-model="words" placeholder="words of a record, a place or a field" aria-label="Filter the differences" />
    <div v-for="d in shown.slice(0, MOST)" :key="d.id" class="bar" :class="tones[d.kind]">
      {{ signs[d.kind] }} {{ d.noun }} <b>{{ d.name }}</b> <span class="dim tiny">{{ d.path }}</span>
      <p v-for="f in d.fields" :key="f.words" class="mono tiny">{{ f.words }}: {{ f.before ?? 'none' }} → {{ f.after ?? 'none' }}</p>
    </div>
    <p v-if="shown.length > MOST" class="dim">The first {{ MOST }} of {{ count(shown.length) }}; words narrow them down, the CSV has them all.</p>
    <p v-if="!difference.records.length" class="dim">They are the same.</p>
  </div>
</template>

<style scoped>
.bar {
  overflow-wrap: anywhere;
}
</style>
