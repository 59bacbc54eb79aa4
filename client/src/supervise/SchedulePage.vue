<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { change, put, type Schedule } from '../shared/api/records'
import { get, post, type Schemas } from '../shared/api/http'
import { useLoaded, useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import SuperviseTabs from './SuperviseTabs.vue'

type Span = Schemas['Span']
const props = defineProps<{ schedule: string }>()
const store = useStore()
const attempt = useDo()
const quarter = computed(() => Math.floor((store.clock?.now ?? 0) / 60000))
const {
  value: view,
  problem,
  reload,
} = useLoaded<Schemas['ScheduleView']>(
  () => get(`/schedules/${props.schedule}`),
  () => [props.schedule, quarter.value],
  ['schedule', 'point', 'equipment', 'place', 'sequence'],
)
const from = ref('')
const { value: days, problem: daysProblem } = useLoaded<Schemas['DayLine'][]>(
  () => get(`/schedules/${props.schedule}/days?days=60${from.value ? `&from=${from.value}` : ''}`),
  () => [props.schedule, from.value, Math.floor(quarter.value / 1440)],
  ['schedule', 'place'],
)
const phrase = ref('')
const answer = ref<Schemas['PhraseAnswer'] | null>(null)
const may = computed(() => store.may('engineer'))
const s = computed(() => view.value?.schedule ?? null)
const short: Record<string, string> = {
  monday: 'Mon',
  tuesday: 'Tue',
  wednesday: 'Wed',
  thursday: 'Thu',
  friday: 'Fri',
  saturday: 'Sat',
  sunday: 'Sun',
}
const value = ref(1)
const driveWords = ref('')
const driveHits = ref<Schemas['Hit'][]>([])
const drivePriority = ref(16)

let turn = 0
watch(phrase, async (text) => {
  const mine = ++turn
  const a = text.trim() ? await post<Schemas['PhraseAnswer']>(`/schedules/${props.schedule}/phrase`, { text, apply: false }).catch(() => null) : null
  if (mine === turn) answer.value = a
})
async function enter() {
  const done = await attempt(async () => {
    const a = await post<Schemas['PhraseAnswer']>(`/schedules/${props.schedule}/phrase`, { text: phrase.value, apply: true })
    if (!a.applied) throw new Error(a.sentence)
  })
  if (done) phrase.value = ''
}
const minutes = (t: string) => Number(t.slice(0, 2)) * 60 + Number(t.slice(3, 5))
const text = (m: number) => `${String(Math.floor(m / 60)).padStart(2, '0')}:${String(m % 60).padStart(2, '0')}`
const left = (t: string) => `${(minutes(t) / 1440) * 100}%`
const width = (a: Span) => `${((minutes(a.to) - minutes(a.from)) / 1440) * 100}%`
const save = (next: Schedule, label?: string) => attempt(() => change([put('schedule', next, Number(view.value!.revision))], label)).finally(reload)
function setSpans(group: number, spans: Span[], label: string) {
  const sorted = [...spans].sort((a, b) => minutes(a.from) - minutes(b.from))
  void save({ ...s.value!, week: s.value!.week!.map((g, i) => (i === group ? { ...g, spans: sorted } : g)) }, label)
}
// Drawing a stretch, or dragging one of its ends; times snap to a quarter of an hour.
const drag = ref<{ group: number; index: number; end: 'from' | 'to' | 'new'; from: number; to: number } | null>(null)
let ribbon: DOMRect | null = null
const at = (e: PointerEvent) => Math.max(0, Math.min(1440, Math.round(((e.clientX - ribbon!.left) / ribbon!.width) * 96) * 15))
function begin(e: PointerEvent, group: number, index = -1, end: 'from' | 'to' | 'new' = 'new') {
  if (!may.value || e.button) return
  const el = (e.currentTarget as HTMLElement).closest<HTMLElement>('.ribbon')!
  ribbon = el.getBoundingClientRect()
  el.setPointerCapture(e.pointerId)
  const span = s.value!.week![group]!.spans![index]
  drag.value = { group, index, end, from: span ? minutes(span.from) : at(e), to: span ? minutes(span.to) : at(e) }
  e.preventDefault()
}
function moveDrag(e: PointerEvent) {
  const d = drag.value
  if (!d) return
  if (d.end === 'from') d.from = Math.min(at(e), d.to - 15)
  else d.to = d.end === 'new' ? at(e) : Math.max(at(e), d.from + 15)
}
function endDrag() {
  const d = drag.value
  drag.value = null
  if (!d) return
  const [a, b] = [Math.min(d.from, d.to), Math.max(d.from, d.to)]
  if (b - a < 15) return
  const spans = s.value!.week![d.group]!.spans ?? []
  const label = `Schedule ‘${s.value!.name}’: ${s.value!.week![d.group]!.days.map((x) => short[x]).join(', ')} ${text(a)}–${text(b)}`
  if (d.end === 'new') setSpans(d.group, [...spans, { from: text(a), to: text(b), value: value.value }], label)
  else
    setSpans(
      d.group,
      spans.map((x, i) => (i === d.index ? { ...x, from: text(a), to: text(b) } : x)),
      label,
    )
}
const states = computed(() =>
  (s.value?.stateTexts ?? []).map((t, i) => ({ text: t, value: s.value!.kind === 'binary' ? i : i + 1 })).filter((x) => x.value !== s.value!.default),
)
const say = (v: number) => (s.value?.stateTexts?.length ? s.value.stateTexts[s.value.kind === 'binary' ? v : v - 1] : `${v} ${s.value?.unit ?? ''}`)
const nowLeft = computed(() => {
  if (!store.clock) return '0%'
  const p = new Intl.DateTimeFormat('en-GB', {
    timeZone: view.value?.zone ?? 'UTC',
    hour: '2-digit',
    minute: '2-digit',
    weekday: 'long',
  }).formatToParts(store.clock.now)
  const part = (t: string) => p.find((x) => x.type === t)!.value
  return { day: part('weekday').toLowerCase(), left: `${((Number(part('hour')) * 60 + Number(part('minute'))) / 1440) * 100}%` }
})
const isToday = (days: string[]) => typeof nowLeft.value === 'object' && days.includes(nowLeft.value.day)
const exName = ref('')
const exFrom = ref('')
const exThrough = ref('')
const exHours = ref('')
async function addException() {
  const spans = exHours.value
    .split(',')
    .map((x) => x.trim())
    .filter(Boolean)
    .map((x) => {
      const [a, b] = x.split(/[-–]/)
      const pad = (t = '') => (t.includes(':') ? t : `${t}:00`).trim().padStart(5, '0')
      return { from: pad(a), to: pad(b), value: value.value }
    })
  if (
    await save(
      {
        ...s.value!,
        exceptions: [...(s.value!.exceptions ?? []), { name: exName.value.trim(), from: exFrom.value, through: exThrough.value || null, spans }],
      },
      `Added the exception ‘${exName.value}’ to ‘${s.value!.name}’`,
    )
  )
    exName.value = exFrom.value = exThrough.value = exHours.value = ''
}
async function findDrive() {
  driveHits.value = driveWords.value.trim()
    ? (await get<Schemas['Hit'][]>(`/find?q=${encodeURIComponent(driveWords.value)}`)).filter((h) => h.noun === 'point')
    : []
}
async function addDrive(h: Schemas['Hit'] | undefined) {
  if (!h) return
  driveHits.value = []
  driveWords.value = ''
  await save(
    { ...s.value!, drives: [...(s.value!.drives ?? []), { pointId: h.id, priority: Number(drivePriority.value) }] },
    `‘${s.value!.name}’ drives ‘${h.name}’ at ${drivePriority.value}`,
  )
}
</script>

<template>
  <div class="page">
    <p v-if="problem" class="wrong">{{ problem }}</p>
    <template v-if="view && s">
      <div class="head">
        <h1>{{ s.name }}</h1>
        <span class="pill">{{ s.stateTexts?.join(' · ') }}</span><span class="pill plum">now {{ view.now }}</span
        ><span class="pill">drives {{ view.drives.length }} outputs</span><span class="pill">{{ view.zone }}</span
        ><span class="space" /><SuperviseTabs />
      </div>
      <div class="cols">
        <div class="left">
          <div class="sheet">
            <div class="scale mono dim">
              <span v-for="h in 9" :key="h">{{ String((h - 1) * 3).padStart(2, '0') }}</span>
            </div>
            <div v-for="(g, i) in s.week ?? []" :key="i" class="group">
              <div class="days">
                <span v-for="d in g.days" :key="d" class="pill" :class="{ plum: isToday([d]) }">{{ short[d] }}</span>
              </div>
              <div class="ribbon" :class="{ draw: may }" @pointerdown.self="begin($event, i)" @pointermove="moveDrag" @pointerup="endDrag">
                <div
                  v-for="(a, j) in g.spans ?? []"
                  :key="j"
                  class="span"
                  :style="
                    drag?.group === i && drag.index === j
                      ? { left: (drag.from / 1440) * 100 + '%', width: ((drag.to - drag.from) / 1440) * 100 + '%' }
                      : { left: left(a.from), width: width(a) }
                  "
                >
                  <i v-if="may" class="end" @pointerdown.stop="begin($event, i, j, 'from')" /><b>{{ say(a.value) }}</b
                  ><span class="mono">{{ drag?.group === i && drag.index === j ? `${text(drag.from)}–${text(drag.to)}` : `${a.from}–${a.to}` }}</span>
                  <button
                    v-if="may"
                    class="x"
                    :aria-label="`Remove ${a.from}–${a.to}`"
                    @pointerdown.stop
                    @click.stop="
                      setSpans(
                        i,
                        g.spans!.filter((_, n) => n !== j),
                        `Schedule ‘${s!.name}’: removed ${a.from}–${a.to}`,
                      )
                    "
                  >
                    ✕</button
                  ><i v-if="may" class="end r" @pointerdown.stop="begin($event, i, j, 'to')" />
                </div>
                <div
                  v-if="drag?.group === i && drag.end === 'new'"
                  class="span ghost"
                  :style="{
                    left: (Math.min(drag.from, drag.to) / 1440) * 100 + '%',
                    width: (Math.abs(drag.to - drag.from) / 1440) * 100 + '%',
                  }"
                >
                  <span class="mono">{{ text(Math.min(drag.from, drag.to)) }}–{{ text(Math.max(drag.from, drag.to)) }}</span>
                </div>
                <span v-if="!g.spans?.length" class="none">{{ s.default == null ? 'released' : say(s.default) }} all day</span>
                <i v-if="isToday(g.days) && typeof nowLeft === 'object'" class="now" :style="{ left: nowLeft.left }" title="now" />
              </div>
            </div>
            <p v-if="!s.week?.length" class="dim">No hours yet: {{ s.default == null ? 'released' : say(s.default) }} all week. Type a phrase below.</p>
            <form v-if="may" class="group" @submit.prevent="enter">
              <div class="days">
                <select v-if="states.length > 1" v-model="value" class="field" aria-label="State to draw">
                  <option v-for="x in states" :key="x.value" :value="x.value">{{ x.text }}</option>
                </select>
              </div>
              <div class="phrase">
                <input id="phrase" v-model="phrase" class="field mono" placeholder="tue-fri 9:00-17:30 open" aria-label="Type days, times and a state" /><button
                  id="phrase-enter"
                  class="btn"
                >
                  Enter ↵
                </button>
              </div>
            </form>
            <p v-if="answer" :class="answer.errorAt != null ? 'wrong' : 'dim'" class="answer" role="status">
              {{ answer.errorAt != null ? '✕ ' : '→ ' }}{{ answer.sentence }}
            </p>
          </div>
          <div class="two">
            <div class="sheet">
              <div class="head">
                <h2>What it will do</h2>
                <span class="space" /><input v-model="from" type="date" class="field" aria-label="From date" /><button
                  v-if="from"
                  class="btn small"
                  @click="from = ''"
                >
                  Today
                </button>
              </div>
              <p v-if="daysProblem" class="wrong">{{ daysProblem }}</p>
              <div class="daylist" tabindex="0">
                <p v-for="d in days ?? []" :key="d.date" :class="{ ex: d.isException }">
                  <span class="mono">{{ d.weekday }} {{ d.date.slice(5) }}</span
                  ><span
                    ><b v-if="d.isException">{{ d.because }} · </b
                    ><template v-for="(x, i) in d.stretches" :key="i"
                      >{{ i ? ', ' : '' }}{{ x.says }} <span class="mono">{{ x.from }}–{{ x.to }}</span>
                      <small class="dim mono">({{ x.fromUtc }}–{{ x.toUtc }})</small></template
                    ><span v-if="!d.stretches.length" class="dim">{{ s.default == null ? 'released' : say(s.default) }} all day</span
                    ><span v-if="d.clockChange" class="pill amber">{{ d.clockChange }}</span></span
                  >
                </p>
              </div>
            </div>
            <div class="sheet">
              <h2>Exceptions</h2>
              <p v-for="(x, i) in s.exceptions ?? []" :key="i" class="exline">
                <b>{{ x.name }}</b><span class="mono">{{ x.from }}{{ x.through ? ` to ${x.through}` : '' }}</span
                ><span>{{
                  x.spans?.length
                    ? x.spans.map((p) => `${say(p.value)} ${p.from}–${p.to}`).join(', ')
                    : `${s.default == null ? 'released' : say(s.default)} all day`
                }}</span
                ><button
                  v-if="may"
                  class="btn small"
                  :aria-label="`Remove ${x.name}`"
                  @click="save({ ...s!, exceptions: s!.exceptions!.filter((_, n) => n !== i) }, `Removed the exception ‘${x.name}’`)"
                >
                  ✕
                </button>
              </p>
              <p v-if="!s.exceptions?.length" class="dim">None: every week goes alike.</p>
              <form v-if="may" class="exform" @submit.prevent="addException">
                <input v-model="exName" class="field" required placeholder="public holiday" aria-label="Name" /><input
                  v-model="exFrom"
                  class="field"
                  type="date"
                  required
                  aria-label="From"
                /><input v-model="exThrough" class="field" type="date" aria-label="Through, if several days" /><input
                  v-model="exHours"
                  class="field mono"
                  placeholder="hours, or none: 10-16"
                  aria-label="Hours"
                /><button class="btn">Add</button>
              </form>
            </div>
          </div>
        </div>
        <div class="right">
          <div class="sheet">
            <h2>Who decides now</h2>
            <p v-for="(r, i) in view.today" :key="i" class="rule" :class="{ on: r.decides }">
              <span>{{ r.rule }}</span><span>{{ r.says }}</span>
            </p>
          </div>
          <div class="sheet">
            <h2>Drives</h2>
            <p v-for="d in view.drives" :key="d.pointId" class="drive">
              <button class="link" :title="d.path" @click="store.selected = d.pointId">
                <b>{{ d.name }}</b></button
              ><span class="mono dim">@{{ d.priority }}</span
              ><span class="pill" :class="{ moss: d.inCharge }">{{ d.inCharge ? '✓ ' : '' }}{{ d.state }}</span
              ><button
                v-if="may"
                class="btn small"
                :aria-label="`Stop driving ${d.name}`"
                @click="
                  save(
                    { ...s!, drives: s!.drives!.filter((x) => x.pointId !== d.pointId || x.priority !== d.priority) },
                    `‘${s!.name}’ no longer drives ‘${d.name}’`,
                  )
                "
              >
                ✕
              </button>
            </p>
            <p v-if="!view.drives.length" class="dim">Nothing yet.</p>
            <div v-if="may" class="adddrive">
              <input
                id="drive-words"
                v-model="driveWords"
                class="field"
                placeholder="words of an output"
                aria-label="Output to drive"
                @input="findDrive"
                @keydown.enter.prevent="findDrive().then(() => addDrive(driveHits[0]))"
              /><label class="mono"
                >@<input v-model="drivePriority" class="field mono" type="number" min="1" max="16" style="width: 52px" aria-label="Priority"
              /></label>
            </div>
            <p v-for="h in driveHits" :key="h.id">
              <button class="btn small" @click="addDrive(h)">
                {{ h.name }} <span class="dim">{{ h.path }}</span>
              </button>
            </p>
          </div>
        </div>
      </div>
    </template>
  </div>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 12px;
  align-items: start;
}
.left,
.right {
  display: grid;
  gap: 12px;
  min-width: 0;
}
.scale {
  display: flex;
  justify-content: space-between;
  margin-left: 150px;
  font-size: 11.5px;
}
.group {
  display: grid;
  grid-template-columns: 140px 1fr;
  gap: 10px;
  align-items: center;
  margin: 7px 0;
}
.days {
  display: flex;
  flex-wrap: wrap;
  gap: 3px;
}
.days .pill {
  padding: 0 7px;
  font-weight: 600;
}
.ribbon {
  position: relative;
  height: 40px;
  background: var(--sunk);
  border: 1px solid var(--rule);
  border-radius: 7px;
  touch-action: none;
}
.ribbon.draw {
  cursor: crosshair;
}
.span {
  position: absolute;
  top: 0;
  bottom: 0;
  background: #6f5594;
  color: #fff;
  display: flex;
  align-items: center;
  justify-content: space-between;
  padding: 0 12px;
  overflow: hidden;
  white-space: nowrap;
  gap: 8px;
  font-size: 13px;
  border-radius: 3px;
}
.span.ghost {
  opacity: 0.6;
}
.end {
  position: absolute;
  left: 0;
  top: 0;
  bottom: 0;
  width: 8px;
  cursor: ew-resize;
  border-left: 3px double #ffffff88;
}
.end.r {
  left: auto;
  right: 0;
  border-left: 0;
  border-right: 3px double #ffffff88;
}
.x {
  border: 0;
  background: none;
  color: #fff;
  cursor: pointer;
  padding: 0 4px;
}
.none {
  position: absolute;
  inset: 0;
  display: grid;
  place-items: center;
  color: var(--ink-2);
  pointer-events: none;
}
.now {
  position: absolute;
  top: -3px;
  bottom: -3px;
  width: 2px;
  background: var(--crimson);
  pointer-events: none;
}
.phrase {
  display: flex;
  gap: 8px;
}
.phrase .field {
  flex: 1;
}
.answer {
  margin-left: 150px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.daylist {
  max-height: 300px;
  overflow: auto;
  margin-top: 6px;
}
.daylist p {
  display: grid;
  grid-template-columns: 82px 1fr;
  gap: 6px;
  padding: 2px 0;
}
.daylist small {
  margin-left: 5px;
}
.daylist .ex b {
  color: var(--russet);
}
.exline {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  border-bottom: 1px solid var(--rule);
  padding: 3px 0;
}
.exform {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
  margin-top: 8px;
}
.rule,
.drive {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  padding: 3px 6px;
  align-items: center;
}
.rule.on {
  background: var(--plum-soft);
  border-radius: 6px;
  font-weight: 600;
}
.link {
  border: 0;
  background: none;
  padding: 0;
  cursor: pointer;
  text-align: left;
  flex: 1;
}
.adddrive {
  display: flex;
  gap: 6px;
  margin-top: 6px;
}
.adddrive .field:first-child {
  flex: 1;
}
</style>
