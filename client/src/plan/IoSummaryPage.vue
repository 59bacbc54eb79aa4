<script setup lang="ts">
import { ref } from 'vue'
import { api, get, type Schemas } from '../shared/api/http'
import { useLoaded } from '../shared/store'
import PlanTabs from './PlanTabs.vue'

const by = ref<Schemas['SummaryBy']>('panel')
const spare = ref(20)
const kinds: [Schemas['SummaryBy'], string][] = [
  ['panel', 'Panels'],
  ['floor', 'Floors'],
  ['room', 'Rooms'],
  ['equipmentKind', 'Kinds of equipment'],
]
const { value: summary } = useLoaded<Schemas['IoSummary']>(
  () => get(`/lists/summary?by=${by.value}&spare=${Number(spare.value) || 0}`),
  () => [by.value, spare.value],
  ['point', 'fitting', 'controller', 'place', 'equipment'],
)
const sorts = ['analogIn', 'binaryIn', 'analogOut', 'binaryOut'] as const
const heads = ['AI', 'BI', 'AO', 'BO']
const print = () => window.print()
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>I/O summary</h1>
      <span class="tabs"
        ><button v-for="[k, label] in kinds" :key="k" :class="{ on: by === k }" @click="by = k">{{ label }}</button></span
      >
      <label class="pill"
        >spare <input v-model.lazy="spare" class="bare mono" type="number" min="0" max="300" style="width: 52px" aria-label="Spare in per cent" /> %</label
      >
      <span class="space" />
      <a class="btn" :href="api(`/lists/summary/file?by=${by}&spare=${spare}`)" download>CSV</a>
      <a class="btn" :href="api(`/lists/summary/file?by=${by}&spare=${spare}&form=xlsx`)" download>XLSX</a>
      <button class="btn" @click="print">Print</button>
      <PlanTabs />
    </div>
    <table v-if="summary" class="grid sheet">
      <thead>
        <tr>
          <th></th>
          <th colspan="5">Points</th>
          <th colspan="4">Terminals with {{ summary.sparePercent }} % spare</th>
          <th v-if="by === 'panel'"></th>
        </tr>
        <tr>
          <th>{{ kinds.find(([k]) => k === by)?.[1] }}</th>
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
    </table>
    <p class="dim">AI, BI: analog and binary inputs; AO, BO: outputs. Values live in a controller’s memory and need no terminal.</p>
  </div>
</template>

<style scoped>
th[colspan] {
  text-align: center;
}
.bare {
  border: 1px solid var(--rule);
  border-radius: 5px;
  background: var(--sheet);
}
.total td {
  font-weight: 700;
  border-top: 2px solid var(--rule);
}
</style>
