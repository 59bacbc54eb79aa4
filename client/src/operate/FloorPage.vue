<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { get, type Schemas } from '../shared/api/http'
import { Flag, siteTime, useLive, useLoaded, useStore } from '../shared/store'
import AlarmCard from './AlarmCard.vue'

const props = defineProps<{ floor?: string }>()
const store = useStore()
const router = useRouter()
const { value: floors } = useLoaded<Schemas['FloorLine'][]>(async () => (await get<Schemas['FloorLine'][]>('/floors')).filter((f) => f.rooms), undefined, [
  'place',
])
watch([floors, () => props.floor], ([list, floor]) => {
  if (!floor && list?.length) void router.replace(`/operate/${(list.find((f) => f.name === 'First floor') ?? list[0])!.id}`)
})
const { value: view, problem } = useLoaded<Schemas['FloorView']>(
  () => (props.floor ? get(`/floors/${props.floor}/view`) : null),
  () => props.floor,
  ['place', 'equipment', 'point'],
)
const measure = ref('Temperature')
watch(view, (v) => v && !v.measures.includes(measure.value) && (measure.value = v.measures[0] ?? 'Temperature'))
const measureOf = (r: Schemas['FloorRoom']) => r.measures.find((m) => m.name === measure.value)
const live = useLive(() =>
  (view.value?.rooms ?? []).flatMap((r) => [
    ...r.measures.flatMap((m) => [`p:${m.pointId}`, ...(m.setpointId ? [`p:${m.setpointId}`] : [])]),
    ...r.points.map((p) => `p:${p}`),
  ]),
)
const drawn = computed(() => (view.value?.rooms ?? []).filter((r) => r.outline.length >= 3))
const box = computed(() => {
  const xs = drawn.value.flatMap((r) => r.outline.map((c) => c.x))
  const ys = drawn.value.flatMap((r) => r.outline.map((c) => c.y))
  if (!xs.length) return { x: 0, y: 0, w: 10, h: 10 }
  const [x, y] = [Math.min(...xs) - 0.3, Math.min(...ys) - 0.3]
  return { x, y, w: Math.max(...xs) - x + 0.3, h: Math.max(...ys) - y + 0.3 }
})
type Look = { fill: string; value: string; sub: string; state: string; difference: number | null }
/** How a room looks: its distance from setpoint on the scale; hatched when nothing can be said. The colours end at ±3 K. */
function look(r: Schemas['FloorRoom']): Look {
  const m = measureOf(r)
  const v = m ? live.get(`p:${m.pointId}`) : undefined
  const alarm = r.points.some((p) => store.alarms.some((a) => a.pointId === p && a.stillSo))
  const held = r.points.some((p) => store.held.some((h) => h.pointId === p))
  const state = [alarm ? '▲ alarm' : '', held ? '◐ held' : ''].filter(Boolean).join(' ')
  if (!m || !v) return { fill: 'var(--sheet)', value: '', sub: '', state, difference: null }
  if (v.f & Flag.fault) return { fill: 'url(#hatch)', value: '✕ fault', sub: 'sensor', state, difference: null }
  if (v.f & Flag.released || v.v == null) return { fill: 'url(#hatch)', value: '○', sub: 'no value', state, difference: null }
  const stale = v.f & Flag.stale ? ' ◇' : ''
  const sp = m.setpointId ? live.get(`p:${m.setpointId}`) : undefined
  if (measure.value === 'Presence') return { fill: v.v ? 'var(--plum-soft)' : 'var(--sheet)', value: v.text, sub: '', state, difference: null }
  if (sp?.v == null) return { fill: stale ? 'url(#hatch)' : 'var(--sheet)', value: v.text + stale, sub: '', state, difference: null }
  const d = v.v - sp.v
  return {
    fill: stale ? 'url(#hatch)' : scale(d),
    value: v.text + stale,
    sub: `${Math.abs(d) < 0.05 ? '±' : d > 0 ? '+' : '−'}${Math.abs(d).toFixed(1)} ${m.differenceUnit ?? ''}`,
    state,
    difference: d,
  }
}
const span = computed(() => (measure.value === 'Temperature' ? 3 : measure.value === 'Humidity' ? 15 : 300))
function scale(d: number) {
  const share = Math.max(-1, Math.min(1, d / span.value))
  return share < 0
    ? `color-mix(in srgb, var(--cold) ${Math.round(-share * 100)}%, var(--paper))`
    : `color-mix(in srgb, var(--warm) ${Math.round(share * 100)}%, var(--paper))`
}
const looks = computed(() => new Map(drawn.value.map((r) => [r.id, look(r)])))
const plan = ref<HTMLElement>()
/** How many times larger than the page the plan is drawn; the rest is reached by scrolling. */
const zoom = ref(1)
const zooms = [1, 1.5, 2, 3, 4]
const nearer = (by: 1 | -1) => (zoom.value = zooms[zooms.indexOf(zoom.value) + by] ?? zoom.value)
const { width: planWidth } = useElementSize(plan)
/** Letter height in metres: as large as the room allows, but on any screen no more than fits the eye. */
const ideal = () => (box.value.w / (Math.max(200, planWidth.value) * zoom.value)) * 17
const fit = (r: Schemas['FloorRoom']) => Math.min(ideal(), r.labelRadius / 2.1, (roomWidth(r) * 1.55) / Math.max(10, r.name.length))
/** A long, low floor is drawn so large that its names can be read, as far as the page is high; the rest is reached by scrolling. */
watch([() => props.floor, () => drawn.value.length, () => planWidth.value > 0], () => {
  zoom.value = 1
  if (planWidth.value < 500 || !drawn.value.length) return
  const scale = planWidth.value / box.value.w
  const letters = drawn.value.map((r) => fit(r) * scale).sort((a, b) => a - b)[Math.floor(drawn.value.length / 2)]!
  const fits = zooms.filter((z) => box.value.h * scale * z <= window.innerHeight - 240)
  zoom.value = fits.find((z) => letters * z >= 9.5) ?? fits.at(-1) ?? 1
})
/** Letter height of a label in one line, for a room too low for three: null when three lines read better. */
function line(r: Schemas['FloorRoom']) {
  const [free, top] = [roomWidth(r), ideal()]
  const l = looks.value.get(r.id)
  const letters = `${r.name} ${l?.value ?? ''} ${l?.sub ?? ''} ${l?.state ?? ''}`.trim().length
  const size = Math.min(top, r.labelRadius * 1.3, free / (letters * 0.62))
  return size > fit(r) * 1.15 ? size : null
}
/** How far a level line through the label stays inside the room, to the nearer side both ways, in metres. */
function roomWidth(r: Schemas['FloorRoom']) {
  let [left, right] = [-Infinity, Infinity]
  r.outline.forEach((a, i) => {
    const b = r.outline[(i + 1) % r.outline.length]!
    if (a.y > r.label.y === b.y > r.label.y) return
    const x = a.x + ((r.label.y - a.y) / (b.y - a.y)) * (b.x - a.x)
    if (x <= r.label.x) left = Math.max(left, x)
    else right = Math.min(right, x)
  })
  return 2 * Math.min(r.label.x - left, right - r.label.x)
}
const numbers = computed(() =>
  (view.value?.rooms ?? [])
    .map((r) => ({ r, v: measureOf(r) ? live.get(`p:${measureOf(r)!.pointId}`) : undefined }))
    .filter((x) => x.v?.v != null && !(x.v.f & (Flag.fault | Flag.released)))
    .sort((a, b) => b.v!.v! - a.v!.v!),
)
const average = computed(() => (numbers.value.length ? numbers.value.reduce((s, x) => s + x.v!.v!, 0) / numbers.value.length : null))
const floorAlarms = computed(() => store.alarms)
const zone = computed(() => store.project?.timeZone ?? 'UTC')
function key(e: KeyboardEvent, id: string) {
  if (e.key === 'Enter' || e.key === ' ') {
    e.preventDefault()
    store.selected = id
  }
}
</script>

<template>
  <div class="page">
    <p v-if="problem" class="wrong">{{ problem }}</p>
    <div v-if="floors && !floors.length" class="sheet empty">
      <h2>No floor to show yet</h2>
      <p>A floor view is made from the rooms of a floor. Add them under Plan.</p>
    </div>
    <div v-if="view" class="head">
      <h1>{{ view.floor.name }}</h1>
      <select class="field" :value="floor" aria-label="Floor" @change="router.push(`/operate/${($event.target as HTMLSelectElement).value}`)">
        <option v-for="f in floors ?? []" :key="f.id" :value="f.id">{{ f.building }} · {{ f.name }}</option>
      </select>
      <span v-if="drawn.length" class="zoom" role="group" aria-label="Size of the plan"
        ><button class="btn small" aria-label="Smaller" :disabled="zoom === 1" @click="nearer(-1)">−</button
        ><button class="btn small" aria-label="Larger" :disabled="zoom === zooms.at(-1)" @click="nearer(1)">+</button
        ><button v-if="zoom > 1" class="btn small" @click="zoom = 1">Whole floor</button></span
      >
      <span class="space" />
      <span class="tabs"
        ><button v-for="m in view.measures" :key="m" :class="{ on: m === measure }" @click="measure = m">
          {{ m }}{{ m === 'Presence' ? '' : ' vs. setpoint' }}
        </button></span
      >
    </div>
    <div v-if="view" class="cols">
      <div ref="plan" class="sheet floor">
        <svg
          v-if="drawn.length"
          :viewBox="`${box.x} ${box.y} ${box.w} ${box.h}`"
          class="plan"
          :style="zoom > 1 ? { width: `${zoom * 100}%`, maxHeight: 'none' } : {}"
          role="group"
          aria-label="Floor"
        >
          <defs>
            <pattern id="hatch" width="0.5" height="0.5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
              <rect width="0.5" height="0.5" fill="var(--sunk)" />
              <line x1="0" y1="0" x2="0" y2="0.5" stroke="var(--rule)" stroke-width="0.22" />
            </pattern>
          </defs>
          <g
            v-for="r in drawn"
            :key="r.id"
            class="room"
            :class="{ on: store.selected === r.id }"
            tabindex="0"
            role="button"
            :aria-label="`${r.name} ${looks.get(r.id)?.value} ${looks.get(r.id)?.sub} ${looks.get(r.id)?.state}`"
            :data-room="r.id"
            @click="store.selected = r.id"
            @keydown="key($event, r.id)"
          >
            <title>{{ r.name }} {{ looks.get(r.id)?.value }} {{ looks.get(r.id)?.sub }} {{ looks.get(r.id)?.state }}</title>
            <polygon :points="r.outline.map((c) => `${c.x},${c.y}`).join(' ')" :fill="looks.get(r.id)?.fill" />
            <text v-if="line(r)" :x="r.label.x" :y="r.label.y" :font-size="line(r)!" dominant-baseline="central" class="name">
              {{ r.name }}
              <tspan class="value">{{ looks.get(r.id)?.value }}</tspan>
              <tspan class="sub">{{ looks.get(r.id)?.sub }} {{ looks.get(r.id)?.state }}</tspan>
            </text>
            <template v-else>
              <text :x="r.label.x" :y="r.label.y - fit(r) * 0.75" :font-size="fit(r)" class="name">{{ r.name }}</text>
              <text :x="r.label.x" :y="r.label.y + fit(r) * 0.4" :font-size="fit(r) * 0.98" class="value">{{ looks.get(r.id)?.value }}</text>
              <text :x="r.label.x" :y="r.label.y + fit(r) * 1.4" :font-size="fit(r) * 0.8" class="sub">
                {{ looks.get(r.id)?.sub }} {{ looks.get(r.id)?.state }}
              </text>
            </template>
          </g>
        </svg>
        <div v-else class="empty">
          <h2>No outlines yet</h2>
          <p>
            The rooms of this floor have no outline. <RouterLink v-if="store.may('engineer')" :to="`/draw/${floor}`">Draw them</RouterLink>; until then they are
            listed here.
          </p>
          <p>
            <button v-for="r in view.rooms" :key="r.id" class="btn" :data-room="r.id" @click="store.selected = r.id">
              {{ r.name }} {{ measureOf(r) ? live.get(`p:${measureOf(r)!.pointId}`)?.text : '' }}
            </button>
          </p>
        </div>
      </div>
      <div class="side">
        <div v-if="measure !== 'Presence'" class="sheet">
          <span class="dim">{{ measure === 'Temperature' ? 'Kelvin' : measure === 'Humidity' ? '%RH' : 'ppm' }} from setpoint</span>
          <div class="scale" />
          <div class="ends mono">
            <span>−{{ span }}</span
            ><span>0</span><span>+{{ span }}</span>
          </div>
          <p class="dim marks">● live ◐ held by hand ◇ stale ▲ alarm ✕ fault ○ none · plain: no setpoint</p>
        </div>
        <div class="sheet">
          <h2>Needs you</h2>
          <p v-if="!floorAlarms.length && !store.held.length" class="dim">✓ Nothing. No alarm, nothing held by hand.</p>
          <AlarmCard v-for="a in floorAlarms.slice(0, 4)" :key="a.id" :alarm="a" class="card" />
          <RouterLink v-for="h in store.held.slice(0, 4)" :key="h.pointId" to="/operate/held" class="heldline"
            >◐ <b>{{ h.name }}</b> {{ h.says }}
            <span class="dim">by {{ h.who }}{{ h.until ? `, ends ${siteTime(h.until, zone, true)}` : ', until released' }}</span></RouterLink
          >
        </div>
        <div v-if="numbers.length && measure !== 'Presence'" class="sheet facts">
          <h2>This floor</h2>
          <p>
            <span>Highest</span><span class="mono">{{ numbers[0]!.v!.text }}</span
            ><span>{{ numbers[0]!.r.name }}</span>
          </p>
          <p>
            <span>Lowest</span><span class="mono">{{ numbers.at(-1)!.v!.text }}</span
            ><span>{{ numbers.at(-1)!.r.name }}</span>
          </p>
          <p>
            <span>Average</span><span class="mono">{{ average?.toFixed(1) }} {{ numbers[0]!.v!.text.split(' ')[1] }}</span
            ><span>{{ numbers.length }} rooms</span>
          </p>
        </div>
      </div>
    </div>
  </div>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 12px;
  align-items: start;
}
.floor {
  padding: 10px;
  overflow: auto;
  max-height: calc(100vh - 205px);
}
.zoom {
  display: inline-flex;
  gap: 4px;
}
.plan {
  width: 100%;
  max-height: calc(100vh - 240px);
  display: block;
}
.room polygon {
  stroke: var(--ink-2);
  stroke-width: 0.12;
  stroke-linejoin: round;
}
.room {
  cursor: pointer;
}
.room:focus-visible,
.room.on {
  outline: none;
}
.room:focus-visible polygon,
.room.on polygon {
  stroke: var(--plum);
  stroke-width: 0.24;
}
text {
  text-anchor: middle;
  dominant-baseline: middle;
  fill: var(--ink);
}
.name {
  font-family: var(--serif);
  font-weight: 600;
}
.value {
  font-family: var(--mono);
  font-weight: 600;
}
.sub {
  font-family: var(--sans);
}
.side {
  display: grid;
  gap: 12px;
}
.side .sheet {
  display: grid;
  gap: 6px;
}
.scale {
  height: 12px;
  border-radius: 6px;
  background: linear-gradient(90deg, var(--cold), var(--paper), var(--warm));
  border: 1px solid var(--rule);
}
.ends {
  display: flex;
  justify-content: space-between;
}
.marks {
  font-size: 12.5px;
}
.heldline {
  color: var(--ink);
  text-decoration: none;
}
.facts p {
  display: grid;
  grid-template-columns: 70px 80px 1fr;
  gap: 6px;
}
@media (max-width: 700px) {
  .cols {
    grid-template-columns: 1fr;
  }
  .plan {
    max-height: none;
  }
  .tabs {
    overflow-x: auto;
    max-width: 100%;
  }
}
</style>
