<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../shared/api/http'
import { clock, readClock } from './lanes'

/** The events of a story on its axis: dragged with the mouse, or moved with the arrows; a new one is chosen below. */
type Event = Schemas['StoryEvent']
const props = defineProps<{
  events: Event[]
  seconds: number
  choices: { value: string; label: string; states: string[] | null; unit: string; low: number }[]
}>()
const emit = defineEmits<{ change: [events: Event[]] }>()
const axis = ref<HTMLElement>()
const dragged = ref<string | null>(null)
const label = (e: Event) => {
  const choice = props.choices.find((c) => c.value === `${e.do}|${e.what}`)
  const value =
    e.do === 'lose' ? 'gone' : (choice?.states?.[Math.round((e.value ?? 0) - (choice?.low ?? 0))] ?? `${e.value}${choice?.unit ? ` ${choice.unit}` : ''}`)
  return `${choice?.label ?? e.what} ${value}${e.for ? ` for ${clock(e.for)}` : ''}`
}
const moved = (id: string, at: number) =>
  emit(
    'change',
    props.events.map((e) => (e.id === id ? { ...e, at: Math.max(0, Math.min(props.seconds, +at.toFixed(1))) } : e)),
  )
function drag(e: PointerEvent) {
  if (!dragged.value || !axis.value) return
  const box = axis.value.getBoundingClientRect()
  moved(dragged.value, ((e.clientX - box.left) / box.width) * props.seconds)
}
function begin(e: PointerEvent, id: string) {
  dragged.value = id
  ;(e.currentTarget as HTMLElement).setPointerCapture(e.pointerId)
}
function key(e: KeyboardEvent, event: Event) {
  const step = props.seconds / (e.shiftKey ? 20 : 200)
  if (e.key === 'ArrowLeft') moved(event.id, event.at - step)
  else if (e.key === 'ArrowRight') moved(event.id, event.at + step)
  else if (e.key === 'Delete')
    emit(
      'change',
      props.events.filter((x) => x.id !== event.id),
    )
  else return
  e.preventDefault()
}
const at = ref('0:10')
const what = ref<string | null>(null)
const value = ref('1')
const lasts = ref('')
const wrong = ref('')
const chosen = computed(() => props.choices.find((c) => c.value === what.value))
function add() {
  const [from, length] = [readClock(at.value), lasts.value.trim() ? readClock(lasts.value) : null]
  const state = chosen.value?.states?.findIndex((s) => s === value.value) ?? -1
  const number = state >= 0 ? state + (chosen.value?.low ?? 0) : Number(value.value.replace(',', '.'))
  wrong.value = !what.value
    ? 'Choose what happens.'
    : from === null || from > props.seconds
      ? `‘${at.value}’ is no moment of this story. Write seconds, or 2:10.`
      : lasts.value.trim() && length === null
        ? `‘${lasts.value}’ is no length of time. Write seconds, or 2:10.`
        : Number.isNaN(number)
          ? `‘${value.value}’ is no value.`
          : ''
  if (wrong.value) return
  const [deed, about] = what.value!.split('|') as [Event['do'], string]
  const id = `e${Date.now().toString(36)}`
  emit(
    'change',
    [...props.events, { id, at: from!, do: deed, what: about, value: deed === 'lose' ? 0 : number, for: length }].sort((a, b) => a.at - b.at),
  )
}
</script>

<template>
  <div>
    <div class="row-of">
      <span class="dim tiny">events: drag them, or arrows; Del takes one away</span>
      <div ref="axis" class="axis" @pointermove="drag" @pointerup="dragged = null">
        <span v-for="t in 11" :key="t" class="tick mono tiny dim" :style="{ left: `${(t - 1) * 10}%` }">{{ clock(((t - 1) * seconds) / 10) }}</span>
        <BareButton
          v-for="e in events"
          :key="e.id"
          class="event"
          :data-event="e.id"
          :style="{ left: `${(100 * e.at) / seconds}%` }"
          :title="`${clock(e.at)} ${label(e)}`"
          :aria-label="`${label(e)} at ${clock(e.at)}`"
          @pointerdown="(p: PointerEvent) => begin(p, e.id)"
          @keydown="(k: KeyboardEvent) => key(k, e)"
          >▼</BareButton
        >
      </div>
    </div>
    <form class="add" @submit.prevent="add">
      <label>at <TextBox id="event-at" v-model="at" mono size="small" aria-label="At" style="width: 76px" /></label>
      <PickOne
        id="event-what"
        v-model="what"
        size="small"
        :options="choices.map((c) => ({ value: c.value, label: c.label }))"
        placeholder="what happens"
        aria-label="What happens"
        style="width: 260px"
      />
      <PickOne v-if="chosen?.states" v-model="value" size="small" :options="chosen.states.filter(Boolean)" aria-label="Value" style="width: 110px" />
      <TextBox v-else-if="!what?.startsWith('lose')" id="event-value" v-model="value" mono size="small" aria-label="Value" style="width: 84px" />
      <span v-if="chosen?.unit" class="dim">{{ chosen.unit }}</span>
      <label>for <TextBox id="event-for" v-model="lasts" mono size="small" placeholder="good" aria-label="For how long" style="width: 76px" /></label>
      <NButton id="event-add" size="small" attr-type="submit">Add</NButton>
      <span v-if="wrong" class="wrong">{{ wrong }}</span>
    </form>
  </div>
</template>

<style scoped>
.row-of {
  display: grid;
  grid-template-columns: 230px minmax(0, 1fr);
  gap: 8px;
  align-items: center;
}
.axis {
  position: relative;
  height: 40px;
  border-bottom: 2px solid var(--rule);
  touch-action: none;
}
.tick {
  position: absolute;
  bottom: 0;
  transform: translateX(-50%);
}
.tick:first-child {
  transform: none;
}
.tick:nth-child(11) {
  transform: translateX(-100%);
}
.event {
  position: absolute;
  top: 0;
  margin-left: -9px;
  width: 18px;
  height: 22px;
  color: var(--russet);
  cursor: ew-resize;
  touch-action: none;
}
.add {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
  margin: 8px 0;
}
</style>
