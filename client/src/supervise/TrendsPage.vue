<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useShown } from '../shared/api/cache'
import { api, get, type Schemas } from '../shared/api/http'
import { siteTime } from '../shared/numbers'
import { useStore } from '../shared/store'
import TrendChart from './TrendChart.vue'
import TrendLogBar from './TrendLogBar.vue'
import TrendPicker from './TrendPicker.vue'

const store = useStore()
const route = useRoute()
const { value: trends } = useShown('/trends', () => ({}), ['trend', 'point', 'place', 'equipment'])
const shown = ref<string[]>([])
const data = ref<Schemas['TrendData'][]>([])
const from = ref(0)
const to = ref(0)
const following = ref(true)
const problem = ref('')
const zone = computed(() => store.project?.timeZone ?? 'UTC')
const HOUR = 3600e3
const spans = [
  { value: HOUR, label: '1 h' },
  { value: 6 * HOUR, label: '6 h' },
  { value: 24 * HOUR, label: '1 day' },
  { value: 7 * 24 * HOUR, label: '1 week' },
]
const span = computed(() => Math.round(to.value - from.value))
const chosen = computed(() => (shown.value.length === 1 ? trends.value?.find((t) => t.trend.id === shown.value[0]) : undefined))
/** The trends that are asked for, or else some of one room. */
function first(t: readonly Schemas['TrendLine'][]) {
  const asked = typeof route.query.show === 'string' ? route.query.show.split(',') : []
  if (asked.length) return asked
  const room = t.find((x) => x.kind !== 'analog')?.path.split(' › ').slice(0, 3).join(' › ') ?? t[0]!.path // prettier-ignore
  return t.filter((x) => x.path.startsWith(room)).slice(0, 4).map((x) => x.trend.id) // prettier-ignore
}
watch(trends, (t) => !shown.value.length && t?.length && (shown.value = first(t)), { immediate: true })
function setSpan(ms: number) {
  following.value = true
  to.value = store.clock?.now ?? Date.now()
  from.value = to.value - ms
}
watch(
  () => store.clock?.now,
  (now) => now && !to.value && setSpan(24 * HOUR),
  { immediate: true },
)
let turn = 0
async function load() {
  if (!shown.value.length || !to.value) return void (data.value = [])
  const mine = ++turn
  const query = { ids: shown.value.join(','), from: Math.round(from.value), to: Math.round(to.value), columns: 900 }
  const got = await get('/trends/data', { query }).catch((e: Error) => e)
  if (mine !== turn) return
  problem.value = got instanceof Error ? got.message : ''
  if (!(got instanceof Error)) data.value = got
}
watch([shown, from, to], load)
useIntervalFn(() => {
  if (following.value && store.clock?.running) setSpan(span.value)
}, 2000)
function range(a: number, b: number) {
  following.value = false
  if (b - a < 10_000) return
  from.value = a
  to.value = b
}
const pan = (share: number) => range(from.value + span.value * share, to.value + span.value * share)
const zoom = (by: number) => {
  const middle = (from.value + to.value) / 2
  range(middle - (span.value / 2) * by, middle + (span.value / 2) * by)
}
const csv = computed(() => api(`/trends/csv?ids=${shown.value.join(',')}&from=${Math.round(from.value)}&to=${Math.round(to.value)}`))
const keys: Record<string, () => void> = { ArrowLeft: () => pan(-0.2), ArrowRight: () => pan(0.2), '+': () => zoom(0.6), '-': () => zoom(1.6) }
function chartKeys(e: KeyboardEvent) {
  if (!keys[e.key] || (e.target as HTMLElement).closest('input, [role=combobox]')) return
  keys[e.key]!()
  e.preventDefault()
}
</script>

<template>
  <PageShell>
    <template #facts>
      <ChooseOne :model-value="span" :options="spans" label="How long" size="small" @update:model-value="setSpan" />
      <NButtonGroup size="small"
        ><NButton aria-label="Earlier" @click="pan(-0.5)">◀</NButton><NButton aria-label="Later" @click="pan(0.5)">▶</NButton
        ><NButton aria-label="Closer" @click="zoom(0.5)">+</NButton><NButton aria-label="Farther" @click="zoom(2)">−</NButton></NButtonGroup
      >
      <span class="mono dim tiny">{{ siteTime(from, zone, true) }} – {{ siteTime(to, zone, true) }}</span>
      <FactTag v-if="following" tone="moss">● following</FactTag>
    </template>
    <template #actions><LinkButton size="small" :href="csv">CSV</LinkButton></template>
    <div class="cols">
      <div class="sheet plot" tabindex="0" role="group" aria-label="Chart; arrows pan, plus and minus zoom" @keydown="chartKeys">
        <p v-if="problem" class="wrong">{{ problem }}</p>
        <TrendChart v-if="data.some((d) => d.at.length)" :data="data" :from="from" :to="to" :zone="zone" @range="range" />
        <div v-else class="empty">
          <h2>No samples here</h2>
          <p>Choose trends at the right, or another time. A new trend begins when its controller has been sent.</p>
        </div>
        <p class="dim tiny">drag to zoom · wheel zooms, <kbd>Shift</kbd> wheel pans · <kbd>←</kbd><kbd>→</kbd><kbd>+</kbd><kbd>−</kbd></p>
        <TrendLogBar v-if="chosen" :key="chosen.trend.id" :line="chosen" @removed="shown = []" />
      </div>
      <TrendPicker v-if="trends" v-model:shown="shown" :trends="trends" />
    </div>
  </PageShell>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 290px;
  gap: 12px;
  flex: 1;
  min-height: 0;
}
.plot {
  display: flex;
  flex-direction: column;
  gap: 4px;
  min-width: 0;
  min-height: 420px;
}
@media (max-width: 700px) {
  .cols {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
