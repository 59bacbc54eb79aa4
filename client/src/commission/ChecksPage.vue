<script setup lang="ts">
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { useShown } from '../shared/api/cache'
import { api, type Schemas } from '../shared/api/http'
import { count } from '../shared/numbers'
import type { Column } from '../shared/ui/records'

/** How far every panel and every floor is checked, point by point. */
type Line = Schemas['CheckProgress']
const router = useRouter()
const { value: progress, problem, reload } = useShown('/checks', () => ({}), ['fitting', 'controller', 'module', 'point', 'place'])
const panels = computed(() => progress.value?.filter((p) => p.isPanel) ?? [])
const places = computed(() => progress.value?.filter((p) => !p.isPanel) ?? [])
const sum = (of: 'total' | 'passed' | 'failed') => panels.value.reduce((n, p) => n + p[of], 0)
const page = (p: Line) => `/commission/check/${p.id}`
const columns: Column<Line>[] = [
  { key: 'name', title: 'Panel', sort: (p) => p.name },
  { key: 'passed', title: 'Passed', width: 170, sort: (p) => p.passed / Math.max(1, p.total) },
  { key: 'failed', title: 'Failed', width: 80, isNumber: true, sort: (p) => p.failed },
  { key: 'open', title: 'To check', width: 90, isNumber: true, sort: (p) => p.open },
]
</script>

<template>
  <PageShell :problem="problem" @again="reload">
    <template v-if="progress" #facts>
      <FactTag tone="moss">✓ {{ count(sum('passed')) }} of {{ count(sum('total')) }} passed</FactTag>
      <FactTag v-if="sum('failed')" tone="crimson">✕ {{ count(sum('failed')) }} failed</FactTag>
    </template>
    <template #actions><LinkButton href="/checks/report">Report, XLSX</LinkButton></template>
    <EmptyState v-if="progress && !panels.length" title="Nothing to check yet">
      Points are checked at their terminals: add a controller and put points onto it.
      <template #next><LinkButton to="/wire" main>Panels</LinkButton></template>
    </EmptyState>
    <RecordTable
      v-else-if="progress"
      :rows="panels"
      :columns="columns"
      :id="(p) => p.id"
      noun="panel"
      plural="panels"
      :page="page"
      :actions="[{ label: 'Check its points', run: ([p]) => router.push(page(p!)) }]"
    >
      <template #name="{ row: p }"
        ><RouterLink :to="page(p)"
          ><b>{{ p.name }}</b></RouterLink
        ><br /><span class="dim tiny">{{ p.path }}</span></template
      >
      <template #passed="{ row: p }"><FillBar :used="p.passed" :of="p.total" tone="moss" /></template>
      <template #failed="{ row: p }"
        ><span :class="{ wrong: p.failed }">{{ p.failed ? `✕ ${p.failed}` : '–' }}</span></template
      >
      <template #open="{ row: p }">{{ p.open }}</template>
      <template #details="{ row: p }">
        <h2>{{ p.name }}</h2>
        <p class="dim">{{ p.path }}</p>
        <p class="acts"><LinkButton main :to="page(p)">Check its points</LinkButton></p>
        <p>At the panel, this code opens the list on a phone:</p>
        <img :src="api(`/checks/${p.id}/code`)" :alt="`Code of ${p.name}`" width="150" height="150" />
      </template>
    </RecordTable>
    <h2 v-if="places.length">By floor</h2>
    <div v-if="places.length" class="sheet">
      <NTable size="small" :bordered="false" class="close">
        <tbody>
          <tr v-for="p in places" :key="p.id">
            <td>
              <b>{{ p.name }}</b> <span class="dim">{{ p.path }}</span>
            </td>
            <td><FillBar :used="p.passed" :of="p.total" tone="moss" /></td>
            <td>
              <span :class="{ wrong: p.failed }">{{ p.failed ? `✕ ${p.failed} failed` : '' }}</span>
            </td>
          </tr>
        </tbody>
      </NTable>
    </div>
  </PageShell>
</template>

<style scoped>
img {
  background: #fff;
  border-radius: 6px;
}
</style>
