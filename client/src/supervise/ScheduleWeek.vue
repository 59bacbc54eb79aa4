<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import type { Schedule } from '../shared/api/records'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import { clock, dragged, minutes, placed, spansAfter, timeAt, type Drag } from './ribbon'

/** The week of a schedule as ribbons of its days: drawn, dragged by their ends, or written as a phrase. */
const props = defineProps<{
  schedule: Schedule
  zone: string
  may: boolean
  say: (value: number) => string
  otherwise: string
  states: { value: number; label: string }[]
  save: (patch: Partial<Schedule>, label: string) => Promise<boolean>
}>()
const store = useStore()
const attempt = useDo()
const week = computed(() => props.schedule.week ?? [])
const short = (day: string) => day[0]!.toUpperCase() + day.slice(1, 3)
const value = ref(props.states[0]?.value ?? 1)
function setSpans(group: number, spans: Schemas['Span'][], label: string) {
  const next = week.value.map((g, i) => (i === group ? { ...g, spans } : g))
  return props.save({ week: next }, label)
}
const drag = ref<Drag | null>(null)
let ribbon: DOMRect | null = null
function begin(e: PointerEvent, group: number, index = -1, end: Drag['end'] = 'new') {
  if (!props.may || e.button) return
  const el = (e.currentTarget as HTMLElement).closest<HTMLElement>('.ribbon')!
  ribbon = el.getBoundingClientRect()
  el.setPointerCapture(e.pointerId)
  const span = week.value[group]!.spans?.[index]
  const at = timeAt(e.clientX, ribbon)
  drag.value = { group, index, end, from: span ? minutes(span.from) : at, to: span ? minutes(span.to) : at }
  e.preventDefault()
}
const moveDrag = (e: PointerEvent) => drag.value && (drag.value = dragged(drag.value, timeAt(e.clientX, ribbon!)))
function endDrag() {
  const d = drag.value
  drag.value = null
  const spans = d && spansAfter(week.value[d.group]!.spans ?? [], d, value.value)
  if (!spans) return
  const times = `${clock(Math.min(d.from, d.to))}–${clock(Math.max(d.from, d.to))}`
  void setSpans(d.group, spans, `Schedule ‘${props.schedule.name}’: ${week.value[d.group]!.days.map(short).join(', ')} ${times}`)
}
const isDragged = (group: number, index: number) => drag.value?.group === group && drag.value.index === index
const shownSpan = (group: number, index: number, s: Schemas['Span']) =>
  isDragged(group, index) ? { from: drag.value!.from, to: drag.value!.to } : { from: minutes(s.from), to: minutes(s.to) }
const remove = (group: number, index: number, s: Schemas['Span']) =>
  setSpans(
    group,
    week.value[group]!.spans!.filter((_, n) => n !== index),
    `Schedule ‘${props.schedule.name}’: removed ${s.from}–${s.to}`,
  )
const now = computed(() => {
  if (!store.clock) return null
  const parts = new Intl.DateTimeFormat('en-GB', { timeZone: props.zone, hour: '2-digit', minute: '2-digit', weekday: 'long', hourCycle: 'h23' }).formatToParts(
    store.clock.now,
  )
  const part = (t: string) => parts.find((x) => x.type === t)!.value
  return { day: part('weekday').toLowerCase(), minute: Number(part('hour')) * 60 + Number(part('minute')) }
})
const isToday = (days: readonly string[]) => !!now.value && days.includes(now.value.day)

const phrase = ref('')
const answer = ref<Schemas['PhraseAnswer'] | null>(null)
const path = computed(() => ({ id: props.schedule.id }))
let turn = 0
watch(phrase, async (text) => {
  const mine = ++turn
  const a = text.trim() ? await post('/schedules/{id}/phrase', { path: path.value, body: { text, apply: false } }).catch(() => null) : null
  if (mine === turn) answer.value = a
})
async function enter() {
  const done = await attempt(async () => {
    const a = await post('/schedules/{id}/phrase', { path: path.value, body: { text: phrase.value, apply: true } })
    if (!a.applied) throw new Error(a.sentence)
  })
  if (done) phrase.value = ''
}
</script>

<template>
  <div class="sheet">
    <div class="scale mono dim">
      <span v-for="h in 9" :key="h">{{ clock((h - 1) * 180).slice(0, 2) }}</span>
    </div>
    <div v-for="(g, i) in week" :key="i" class="group">
      <div class="days">
        <FactTag v-for="d in g.days" :key="d" :tone="isToday([d]) ? 'plum' : null">{{ short(d) }}</FactTag>
      </div>
      <div class="ribbon" :class="{ draw: may }" @pointerdown.self="begin($event, i)" @pointermove="moveDrag" @pointerup="endDrag">
        <div
          v-for="(a, j) in g.spans ?? []"
          :key="j"
          class="span"
          :title="`${say(a.value)} ${a.from}–${a.to}`"
          :style="placed(shownSpan(i, j, a).from, shownSpan(i, j, a).to)"
        >
          <i v-if="may" class="end" @pointerdown.stop="begin($event, i, j, 'from')" /><b>{{ say(a.value) }}</b
          ><span class="mono">{{ clock(shownSpan(i, j, a).from) }}–{{ clock(shownSpan(i, j, a).to) }}</span>
          <NButton v-if="may" text class="off" :aria-label="`Remove ${a.from}–${a.to}`" @pointerdown.stop @click.stop="remove(i, j, a)">✕</NButton
          ><i v-if="may" class="end r" @pointerdown.stop="begin($event, i, j, 'to')" />
        </div>
        <div v-if="drag?.group === i && drag.end === 'new'" class="span ghost" :style="placed(drag.from, drag.to)">
          <span class="mono">{{ clock(Math.min(drag.from, drag.to)) }}–{{ clock(Math.max(drag.from, drag.to)) }}</span>
        </div>
        <span v-if="!g.spans?.length" class="none">{{ otherwise }} all day</span>
        <i v-if="now && isToday(g.days)" class="now" :style="{ left: placed(0, now.minute).width }" title="now" />
      </div>
    </div>
    <p v-if="!week.length" class="dim">No hours yet: {{ otherwise }} all week. Type a phrase below.</p>
    <form v-if="may" class="group" @submit.prevent="enter">
      <PickOne v-if="states.length > 1" v-model="value" :options="states" aria-label="State to draw" /><span v-else />
      <div class="phrase">
        <TextBox id="phrase" v-model="phrase" mono placeholder="tue-fri 9:00-17:30 open" aria-label="Type days, times and a state" /><NButton
          id="phrase-enter"
          attr-type="submit"
          >Enter ↵</NButton
        >
      </div>
    </form>
    <p v-if="answer" :class="answer.errorAt != null ? 'wrong' : 'dim'" class="answer" role="status">
      {{ answer.errorAt != null ? '✕ ' : '→ ' }}{{ answer.sentence }}
    </p>
  </div>
</template>

<style scoped>
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
  padding: 0 26px 0 12px;
  overflow: hidden;
  flex-wrap: wrap;
  align-content: center;
  gap: 0 8px;
  font-size: 13px;
  line-height: 1.15;
  border-radius: 3px;
}
.span.ghost {
  opacity: 0.6;
}
.span .mono {
  white-space: nowrap;
}
.off {
  position: absolute;
  right: 10px;
  --n-text-color: #fff !important;
  --n-text-color-hover: #fff !important;
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
.answer {
  margin-left: 150px;
}
</style>
