<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../shared/api/http'
import { count } from '../shared/numbers'
import type { Column } from '../shared/ui/records'

/** What each row of a list would come to, the cells that cannot be taken, and what the list's own words stand for. */
const props = defineProps<{ preview: Schemas['ImportPreview']; mapping: Schemas['ListMapping']; fields: { value: string; label: string }[] }>()
const emit = defineEmits<{ words: [words: NonNullable<Schemas['ListMapping']['words']>] }>()
type Line = Schemas['ImportLine']
const verdict = ref<Schemas['RowVerdict'] | 'all'>('all')
const labels: Record<Schemas['RowVerdict'], string> = { adds: '+ adds', changes: '~ changes', same: '= as it is', bad: '✕ bad' }
const verdicts = Object.keys(labels) as Schemas['RowVerdict'][]
const options = computed(() => [
  { value: 'all' as const, label: 'All rows' },
  ...verdicts.map((value) => ({ value, label: `${labels[value]} ${count(props.preview[value])}` })),
])
const MOST = 300
const lines = computed(() => props.preview.lines.filter((l) => verdict.value === 'all' || l.verdict === verdict.value))
const total = computed(() => verdicts.reduce((sum, v) => sum + props.preview[v], 0))
const columns: Column<Line>[] = [
  { key: 'row', title: 'Row', width: 80, isNumber: true, sort: (l) => l.row },
  { key: 'verdict', title: 'Comes to', width: 110, sort: (l) => l.verdict },
  { key: 'words', title: 'Exactly' },
]
const field = ref('unit')
const theirs = ref('')
const ours = ref('')
function add() {
  const [their, our] = [theirs.value.trim(), ours.value.trim()]
  if (!their || !our) return
  emit('words', { ...props.mapping.words, [field.value]: { ...props.mapping.words?.[field.value], [their]: our } })
  theirs.value = ours.value = ''
}
</script>

<template>
  <div class="head">
    <ChooseOne v-model="verdict" :options="options" label="Rows" />
    <span class="dim">{{ preview.records.join(' · ') || 'nothing would change' }}</span>
    <span class="space" />
    <slot />
  </div>
  <div v-if="preview.badCellCount" class="sheet">
    <h2>{{ count(preview.badCellCount) }} cells cannot be taken</h2>
    <p v-for="(b, i) in preview.badCells.slice(0, 12)" :key="i" class="bar high">
      <span class="mono">{{ b.sheet }} {{ b.column }}{{ b.row }}</span> {{ b.sentence }}
    </p>
    <form class="head" @submit.prevent="add">
      <span class="dim">In this list, for</span>
      <PickOne v-model="field" :options="fields.slice(1)" aria-label="Words of" style="width: 150px" />
      <TextBox v-model="theirs" style="width: 150px" placeholder="the list’s word" aria-label="The list’s word" /><span class="dim">stands for</span
      ><TextBox v-model="ours" style="width: 150px" placeholder="ours" aria-label="Our word" /><NButton attr-type="submit">Use it</NButton>
    </form>
  </div>
  <RecordTable :rows="lines.slice(0, MOST)" :columns="columns" :id="(l) => String(l.row)" noun="row" plural="rows">
    <template #verdict="{ row: l }"
      ><span :class="{ wrong: l.verdict === 'bad' }">{{ labels[l.verdict as Schemas['RowVerdict']] }}</span></template
    >
  </RecordTable>
  <p v-if="total > preview.lines.length" class="dim">At most {{ MOST }} rows of each sort are listed; the counts above are of all.</p>
</template>
