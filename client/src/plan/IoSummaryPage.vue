<script setup lang="ts">
import { ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { api, type Schemas } from '../shared/api/http'

type By = Schemas['SummaryBy']
const by = ref<By>('panel')
const spare = ref<number | null>(20)
const options: { value: By; label: string }[] = [
  { value: 'panel', label: 'Panels' },
  { value: 'floor', label: 'Floors' },
  { value: 'room', label: 'Rooms' },
  { value: 'equipmentKind', label: 'Kinds of equipment' },
]
const {
  value: summary,
  problem,
  reload,
} = useShown('/lists/summary', () => ({ query: { by: by.value, spare: spare.value ?? 0 } }), ['point', 'fitting', 'controller', 'place', 'equipment'])
const sorts = ['analogIn', 'binaryIn', 'analogOut', 'binaryOut'] as const
const heads = ['AI', 'BI', 'AO', 'BO']
const file = (form: string) => api(`/lists/summary/file?by=${by.value}&spare=${spare.value ?? 0}&form=${form}`)
const print = () => window.print()
</script>

<template>
  <PageShell :problem="problem" @again="reload">
    <template #facts>
      <ChooseOne v-model="by" :options="options" label="Counted by" />
      <span class="acts">spare <NumberBox v-model="spare" unit="%" :width="76" aria-label="Spare in per cent" /></span>
    </template>
    <template #actions>
      <LinkButton :href="file('csv')">CSV</LinkButton>
      <LinkButton :href="file('xlsx')">XLSX</LinkButton>
      <NButton @click="print">Print</NButton>
    </template>
    <NTable v-if="summary" size="small">
      <thead>
        <tr>
          <th></th>
          <th colspan="5">Points</th>
          <th colspan="4">Terminals with {{ summary.sparePercent }} % spare</th>
          <th v-if="by === 'panel'"></th>
        </tr>
        <tr>
          <th>{{ options.find((o) => o.value === by)?.label }}</th>
          <th v-for="h in heads" :key="h" class="num">{{ h }}</th>
          <th class="num">values</th>
          <th v-for="h in heads" :key="`s${h}`" class="num">{{ h }}</th>
          <th v-if="by === 'panel'">Built in</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="l in [...summary.lines, summary.total]" :key="l.group" :class="{ total: l === summary.total }">
          <td>{{ l.group }}</td>
          <td v-for="s in sorts" :key="s" class="num">{{ l.counts[s] }}</td>
          <td class="num">{{ l.counts.values }}</td>
          <td v-for="s in sorts" :key="`s${s}`" class="num">{{ l.withSpare[s] }}</td>
          <td v-if="by === 'panel'">
            <span class="mono">{{ l.builtIn ?? '–' }}</span> <span v-if="l.lacks" class="wrong">✕ lacks {{ l.lacks }}</span>
          </td>
        </tr>
      </tbody>
    </NTable>
    <p class="dim">AI, BI: analog and binary inputs; AO, BO: outputs. Values live in a controller’s memory and need no terminal.</p>
  </PageShell>
</template>

<style scoped>
th[colspan] {
  text-align: center;
}
.total td {
  font-weight: 700;
  border-top: 2px solid var(--rule);
}
</style>
