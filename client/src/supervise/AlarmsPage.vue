<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import type { Schemas } from '../shared/api/http'
import { count } from '../shared/numbers'
import AlarmCard from '../operate/AlarmCard.vue'
import { useStore } from '../shared/store'
import type { Action, Column } from '../shared/ui/records'
import AlarmForm from './AlarmForm.vue'

type Line = Schemas['AlarmRuleLine']
const store = useStore()
const view = ref<'open' | 'past'>('open')
const options: { value: 'open' | 'past'; label: string }[] = [
  { value: 'open', label: 'Need somebody' },
  { value: 'past', label: 'All that came' },
]
const { value: all } = useShown('/alarms', () => (view.value === 'past' ? { query: { all: true } } : null), ['events', 'alarm', 'point'])
const { value: rules, problem, reload } = useShown('/alarm-rules', () => ({}), ['events', 'alarm', 'point', 'place', 'equipment'])
const list = computed(() => (view.value === 'past' ? (all.value ?? []) : store.alarms))
const adding = ref(false)
const editing = ref<Line | null>(null)
const removing = ref<string[] | null>(null)
const states: Record<Schemas['EventState'], string> = {
  normal: '● normal',
  fault: '✕ fault',
  highLimit: '▲ high',
  lowLimit: '▼ low',
  offnormal: '▲ off normal',
}
const limit = (value: number | null | undefined, unit: string | null | undefined) => (value == null ? '–' : `${value} ${unit ?? ''}`)
const columns: Column<Line>[] = [
  { key: 'name', title: 'Alarm', sort: (r) => r.rule.name },
  { key: 'point', title: 'Point', sort: (r) => r.path },
  { key: 'low', title: 'Low', width: 88, isNumber: true, sort: (r) => r.rule.lowLimit ?? -Infinity },
  { key: 'high', title: 'High', width: 88, isNumber: true, sort: (r) => r.rule.highLimit ?? Infinity },
  { key: 'deadband', title: 'Deadband', width: 92, isNumber: true },
  { key: 'delay', title: 'Delay', width: 72, isNumber: true },
  { key: 'back', title: 'Back', width: 72, isNumber: true },
  { key: 'state', title: 'State', width: 134, sort: (r) => r.state ?? '' },
]
const change = ([r]: Line[]) => ((editing.value = r!), (adding.value = true))
const actions = computed<Action<Line>[]>(() => [
  { label: 'Why?', run: ([r]) => (store.selected = r!.rule.id), key: 'w' },
  ...(store.may('engineer')
    ? [
        { label: 'Change…', run: change, key: 'F2' },
        { label: 'Remove…', run: (rows: Line[]) => (removing.value = rows.map((r) => r.rule.id)), many: true, key: 'Delete' },
      ]
    : []),
])
</script>

<template>
  <PageShell :problem="problem" @again="reload">
    <template #facts><ChooseOne v-model="view" :options="options" label="Which alarms" /></template>
    <template #actions
      ><NButton v-if="store.may('engineer')" id="add-alarm" type="primary" @click="((editing = null), (adding = true))">Add an alarm…</NButton></template
    >
    <EmptyState v-if="!list.length" title="✓ Nothing is in alarm, and everything is acknowledged">What is watched stands below, with its state.</EmptyState>
    <div class="cards"><AlarmCard v-for="a in list" :key="a.id" :alarm="a" /></div>
    <div class="head">
      <h2>What is watched</h2>
      <FactTag>{{ count(rules?.length) }}</FactTag>
    </div>
    <p v-if="rules && !rules.length" class="dim">Nothing yet. An alarm watches a point against limits, in the controller that the point is on.</p>
    <RecordTable
      v-else-if="rules"
      :rows="rules"
      :columns="columns"
      :id="(r) => r.rule.id"
      noun="alarm"
      plural="alarms"
      :words="(r) => `${r.rule.name} ${r.point} ${r.path}`"
      :actions="actions"
      :most="420"
    >
      <template #name="{ row: r }"
        ><b>{{ r.rule.name }}</b></template
      >
      <template #point="{ row: r }"
        >{{ r.point }}<br /><span class="dim tiny">{{ r.path }}</span></template
      >
      <template #low="{ row: r }">{{ limit(r.rule.lowLimit, r.unit) }}</template>
      <template #high="{ row: r }">{{ limit(r.rule.highLimit, r.unit) }}</template>
      <template #deadband="{ row: r }">{{ limit(r.rule.deadband, r.deadbandUnit) }}</template>
      <template #delay="{ row: r }">{{ r.rule.delaySeconds }} s</template>
      <template #back="{ row: r }">{{ r.rule.delayNormalSeconds }} s</template>
      <template #state="{ row: r }"
        ><FactTag :tone="!r.state ? null : r.state === 'normal' ? 'moss' : 'crimson'">{{ r.state ? states[r.state] : '○ not installed' }}</FactTag></template
      >
    </RecordTable>
    <AlarmForm v-if="adding" :line="editing" @close="adding = false" />
    <ConfirmRemoval v-if="removing" :ids="removing" @close="removing = null" />
  </PageShell>
</template>

<style scoped>
.cards {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(320px, 1fr));
  gap: 10px;
}
</style>
