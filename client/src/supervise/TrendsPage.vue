<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { change, put } from '../shared/api/records'
import { api, get, post, type Schemas } from '../shared/api/http'
import { siteTime, useLoaded, useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import { count } from '../shared/numbers'
import { matching } from '../shared/words'
import RemoveBox from '../plan/RemoveBox.vue'
import SuperviseTabs from './SuperviseTabs.vue'
import TrendChart from './TrendChart.vue'

const store = useStore()
const route = useRoute()
const attempt = useDo()
const { value: trends } = useLoaded<Schemas['TrendLine'][]>(() => get('/trends'), undefined, ['trend', 'point', 'place', 'equipment'])
const shown = ref<string[]>([])
const words = ref('')
const data = ref<Schemas['TrendData'][]>([])
const from = ref(0)
const to = ref(0)
const following = ref(true)
const removing = ref<string | null>(null)
const problem = ref('')
const zone = computed(() => store.project?.timeZone ?? 'UTC')
const spans: [string, number][] = [
  ['1 h', 3600e3],
  ['6 h', 6 * 3600e3],
  ['1 day', 86400e3],
  ['1 week', 7 * 86400e3],
]
const MOST = 300
const found = computed(() => matching(trends.value ?? [], (t) => `${t.path} ${t.point}`, words.value))
/** Those that are shown come first, so that they can be taken off again; then the rest, as many as can be read. */
const list = computed(() => {
  const on = (trends.value ?? []).filter((t) => shown.value.includes(t.trend.id))
  return [...on, ...found.value.filter((t) => !shown.value.includes(t.trend.id)).slice(0, MOST)]
})
const chosen = computed(() => (shown.value.length === 1 ? trends.value?.find((t) => t.trend.id === shown.value[0]) : undefined))
watch(
  trends,
  (t) => {
    if (shown.value.length || !t?.length) return
    const asked = typeof route.query.show === 'string' ? route.query.show.split(',') : []
    const firstRoom =
      t
        .find((x) => x.kind !== 'analog')
        ?.path.split(' › ')
        .slice(0, 3)
        .join(' › ') ?? t[0]!.path
    shown.value = asked.length
      ? asked
      : t
          .filter((x) => x.path.startsWith(firstRoom))
          .slice(0, 4)
          .map((x) => x.trend.id)
  },
  { immediate: true },
)
watch(
  () => store.clock?.now,
  (now) => {
    if (now && !to.value) {
      to.value = now
      from.value = now - 86400e3
    }
  },
  { immediate: true },
)
let turn = 0
async function load() {
  if (!shown.value.length || !to.value) return void (data.value = [])
  const mine = ++turn
  try {
    const got = await get<Schemas['TrendData'][]>(
      `/trends/data?ids=${shown.value.join(',')}&from=${Math.round(from.value)}&to=${Math.round(to.value)}&columns=900`,
    )
    if (mine === turn) [data.value, problem.value] = [got, '']
  } catch (e) {
    problem.value = (e as Error).message
  }
}
watch([shown, from, to], load)
useIntervalFn(() => {
  if (!following.value || !store.clock?.running) return
  const span = to.value - from.value
  to.value = store.clock.now
  from.value = to.value - span
}, 2000)
function setSpan(ms: number) {
  following.value = true
  to.value = store.clock?.now ?? Date.now()
  from.value = to.value - ms
}
function range(a: number, b: number) {
  following.value = false
  if (b - a < 10_000) return
  from.value = a
  to.value = b
}
const pan = (share: number) => range(from.value + (to.value - from.value) * share, to.value + (to.value - from.value) * share)
const zoom = (by: number) => {
  const middle = (from.value + to.value) / 2
  const half = ((to.value - from.value) / 2) * by
  range(middle - half, middle + half)
}
const toggle = (id: string) => (shown.value = shown.value.includes(id) ? shown.value.filter((x) => x !== id) : [...shown.value, id].slice(-12))
const log = ref<Schemas['TrendLogState'] | null>(null)
watch(
  [chosen, () => store.clock?.now],
  async ([c]) => {
    if (!c) return void (log.value = null)
    log.value = await get<Schemas['TrendLogState']>(`/trends/${c.trend.id}/log`).catch(() => null)
  },
  { immediate: true },
)
const empty = () => attempt(async () => (log.value = await post<Schemas['TrendLogState']>(`/trends/${chosen.value!.trend.id}/empty`, {})))
const csv = computed(() => api(`/trends/csv?ids=${shown.value.join(',')}&from=${Math.round(from.value)}&to=${Math.round(to.value)}`))
const save = (patch: object) => attempt(() => change([put('trend', { ...chosen.value!.trend, ...patch }, Number(chosen.value!.revision))]))
function chartKeys(e: KeyboardEvent) {
  if (e.key === 'ArrowLeft') pan(-0.2)
  else if (e.key === 'ArrowRight') pan(0.2)
  else if (e.key === '+') zoom(0.6)
  else if (e.key === '-') zoom(1.6)
  else return
  e.preventDefault()
}
</script>

<template>
  <div class="page trends">
    <div class="head">
      <h1>Trends</h1>
      <span v-for="[name, ms] in spans" :key="name"
        ><button class="btn small" @click="setSpan(ms)">{{ name }}</button></span
      >
      <button class="btn small" aria-label="Earlier" @click="pan(-0.5)">◀</button><button class="btn small" aria-label="Later" @click="pan(0.5)">▶</button
      ><button class="btn small" aria-label="Closer" @click="zoom(0.5)">+</button><button class="btn small" aria-label="Farther" @click="zoom(2)">−</button>
      <span class="mono dim">{{ siteTime(from, zone, true) }} – {{ siteTime(to, zone, true) }}</span>
      <span v-if="following" class="pill moss">● following</span>
      <span class="space" /><a class="btn small" :href="csv" download="trends.csv">Values as CSV</a><SuperviseTabs />
    </div>
    <div class="cols">
      <div class="sheet plot" tabindex="0" aria-label="Chart; arrows pan, plus and minus zoom" @keydown="chartKeys">
        <p v-if="problem" class="wrong">{{ problem }}</p>
        <TrendChart v-if="data.some((d) => d.at.length)" :data="data" :from="from" :to="to" :zone="zone" @range="range" />
        <div v-else class="empty">
          <h2>No samples here</h2>
          <p>Choose trends at the right, or another time. A new trend begins when its controller has been sent.</p>
        </div>
        <p class="dim" style="font-size: 12.5px">drag to zoom · wheel zooms, <kbd>Shift</kbd> wheel pans · <kbd>←</kbd><kbd>→</kbd><kbd>+</kbd><kbd>−</kbd></p>
        <p v-if="chosen && log?.isInstalled" class="head">
          <span v-if="log.hasStopped" class="pill amber">◇ full: stopped after {{ count(Number(log.taken)) }} samples</span>
          <span v-else class="dim"
            >The log in the controller holds {{ count(Math.min(Number(log.taken), Number(log.holds))) }} of {{ count(Number(log.holds)) }} samples.</span
          >
          <button v-if="log.hasStopped && store.may('technician')" class="btn small" @click="empty">Empty it and begin again</button>
        </p>
        <div v-if="chosen && store.may('engineer')" class="head log">
          <h3>{{ chosen.point }}</h3>
          <label
            >by
            <select class="field" :value="chosen.trend.mode" @change="save({ mode: ($event.target as HTMLSelectElement).value })">
              <option value="interval">interval</option>
              <option value="change">change</option>
            </select></label
          >
          <label v-if="chosen.trend.mode === 'interval'"
            >every
            <input
              class="field mono"
              type="number"
              style="width: 80px"
              :value="chosen.trend.intervalSeconds"
              @change="save({ intervalSeconds: Number(($event.target as HTMLInputElement).value) })"
            />
            s</label
          >
          <label v-else
            >of
            <input
              class="field mono"
              type="number"
              step="any"
              style="width: 80px"
              :value="chosen.trend.changeBy"
              @change="save({ changeBy: Number(($event.target as HTMLInputElement).value) })"
            />
            {{ chosen.changeUnit }}</label
          >
          <label
            >keeps
            <input
              class="field mono"
              type="number"
              style="width: 90px"
              :value="chosen.trend.bufferSize"
              @change="save({ bufferSize: Number(($event.target as HTMLInputElement).value) })"
            />
            samples</label
          >
          <label
            >when full
            <select class="field" :value="chosen.trend.whenFull" @change="save({ whenFull: ($event.target as HTMLSelectElement).value })">
              <option value="roll">rolls</option>
              <option value="stop">stops</option>
            </select></label
          >
          <button class="btn small" @click="removing = chosen.trend.id">Remove…</button>
        </div>
      </div>
      <div class="sheet picker">
        <input v-model="words" class="field" placeholder="words of a trend" aria-label="Find a trend" />
        <label v-for="t in list" :key="t.trend.id" class="pick"
          ><input type="checkbox" :checked="shown.includes(t.trend.id)" @change="toggle(t.trend.id)" /><span :title="t.path"
            ><b>{{ t.path.split(' › ').at(-1) }}</b> {{ t.point }} <span class="dim place">{{ t.path.split(' › ').slice(0, -1).join(' › ') }}</span></span
          ></label
        >
        <p v-if="found.length > MOST" class="dim">{{ count(found.length) }} match; the first {{ MOST }} are listed. Type more words.</p>
        <p v-if="trends && !trends.length" class="dim">No trend yet. Open a point’s dossier and choose “Trend it”.</p>
      </div>
    </div>
    <RemoveBox v-if="removing" :ids="[removing]" @close="((removing = null), (shown = []))" />
  </div>
</template>

<style scoped>
.trends {
  height: 100%;
}
.cols {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 270px;
  gap: 12px;
  flex: 1;
  min-height: 0;
}
.plot {
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 420px;
}
.picker {
  overflow: auto;
  display: flex;
  flex-direction: column;
  gap: 2px;
}
.pick {
  display: flex;
  gap: 7px;
  padding: 2px;
  align-items: baseline;
}
.place {
  display: block;
  font-size: 12px;
}
.log label {
  display: inline-flex;
  align-items: center;
  gap: 5px;
}
@media (max-width: 700px) {
  .cols {
    grid-template-columns: 1fr;
  }
}
</style>
