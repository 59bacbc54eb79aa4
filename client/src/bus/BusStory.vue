<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { change, newId, put } from '../shared/api/records'
import { many } from '../shared/numbers'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import { clock, readClock } from './lanes'
import OverSettings from './OverSettings.vue'
import StoryEvents from './StoryEvents.vue'
import StoryLanes from './StoryLanes.vue'
import StoryVerdicts from './StoryVerdicts.vue'

/** What a device will do: a story is told to it, and everything that it says and drives is seen over time, before anything is sent. */
const props = defineProps<{ view: Schemas['BusDeviceView'] }>()
const emit = defineEmits<{ lead: [path: string] }>()
const store = useStore()
const attempt = useDo()
const id = computed(() => props.view.device.id)
const { value: kept } = useShown('/bus/stories/{owner}', () => ({ path: { owner: id.value } }), ['story'])
const { value: objects } = useShown('/bus/devices/{id}/objects', () => ({ path: { id: id.value } }), ['busDevice', 'groupAddress'])
const chosen = ref('')
const name = ref('')
const seconds = ref(600)
const events = ref<Schemas['StoryEvent'][]>([])
const expectations = ref<Schemas['StoryExpectation'][]>([])
const over = ref<Schemas['SettingText'][]>([])
/** Whether all devices of the room live it together. */
const together = ref(false)
const told = ref<Schemas['ToldStory'] | null>(null)
const stories = computed(() => [
  ...(kept.value ?? []).map((s) => ({ value: s.story.id, label: s.story.name })),
  ...props.view.ideas.map((i, n) => ({ value: `idea-${n}`, label: `${i.name} (proposed)` })),
])
function open(value: string) {
  chosen.value = value
  const story = kept.value?.find((s) => s.story.id === value)?.story
  const idea = value.startsWith('idea-') ? props.view.ideas[Number(value.slice(5))] : undefined
  name.value = story?.name ?? idea?.name ?? ''
  seconds.value = story?.seconds ?? idea?.seconds ?? 600
  events.value = (story?.events ?? idea?.events ?? []).slice()
  expectations.value = (story?.expectations ?? []).slice()
}
watch(
  [stories, kept],
  () => {
    if (kept.value && !chosen.value && stories.value.length) open(stories.value[0]!.value)
  },
  { immediate: true },
)
const tell = useDebounceFn(
  () =>
    attempt(async () => {
      told.value = await post('/bus/stories/tell', {
        body: {
          ownerId: together.value ? props.view.device.placeId : id.value,
          seconds: seconds.value,
          // What a room has in common all sense; what is pressed or told is this device's.
          events: events.value.map((e) => ({ ...e, deviceId: together.value && (e.do === 'tell' || e.what.includes('.')) ? id.value : null })),
          expectations: expectations.value.map((e) => ({ ...e, deviceId: together.value ? id.value : null })),
          over: over.value,
          overDevice: id.value,
        },
      })
    }),
  120,
)
watch([events, seconds, expectations, over, together, () => props.view.revision], () => void tell(), { immediate: true })
const choices = computed(() => {
  const sensed = new Map<string, { value: string; label: string; states: string[] | null; unit: string; low: number }>()
  for (const c of props.view.channels.filter((c) => c.isInUse))
    for (const s of c.senses) {
      const what = s.key === 'contact' || s.key === 'signal' ? `${c.key}.${s.key}` : s.key
      sensed.set(what, { value: `sense|${what}`, label: `${s.name}`, states: s.states?.slice() ?? null, unit: s.unit, low: s.low })
    }
  return [
    ...sensed.values(),
    ...(objects.value ?? [])
      .filter((o) => o.hears && o.isThere)
      .map((o) => ({ value: `tell|${o.path}`, label: `told: ${o.name}`, states: null, unit: '', low: 0 })),
    { value: 'lose|bus', label: 'Bus', states: null, unit: '', low: 0 },
    { value: 'lose|mains', label: 'Mains', states: null, unit: '', low: 0 },
  ]
})
function expect(what: string, at: number, value: number) {
  expectations.value = [...expectations.value, { id: newId('x'), at: +(at + 0.1).toFixed(1), what, value, within: 0.5 }]
}
async function keep() {
  const there = kept.value?.find((s) => s.story.id === chosen.value)
  const record = {
    id: there?.story.id ?? newId('story'),
    name: name.value.trim() || 'Story',
    ownerId: id.value,
    seconds: seconds.value,
    events: events.value,
    expectations: expectations.value,
  }
  if (await attempt(() => change([put('story', record, there?.revision ?? 0)]), 'Kept')) chosen.value = record.id
}
function length(text: string) {
  const read = readClock(text)
  if (read && read >= 1) seconds.value = read
}
</script>

<template>
  <div class="sheet story">
    <div class="tools">
      <PickOne :model-value="chosen" :options="stories" aria-label="Story" placeholder="a story" style="width: 300px" @update:model-value="open" />
      <TextBox id="story-name" v-model="name" aria-label="Name of the story" placeholder="what it is called" style="width: 300px" />
      <label>lasts <TextBox lazy mono :model-value="clock(seconds)" aria-label="How long it lasts" style="width: 90px" @update:model-value="length" /></label>
      <NCheckbox v-model:checked="together">with the whole room</NCheckbox>
      <NButton v-if="store.may('engineer')" id="story-keep" @click="keep">Keep it</NButton>
      <OverSettings v-model="over" :view="view" />
    </div>
    <StoryEvents :events="events" :seconds="seconds" :choices="choices" @change="(e) => (events = e)" />
    <p v-if="told?.run.load.telegrams" class="dim" data-load>
      {{ many(told.run.load.telegrams, 'telegram') }} on the line; most of them in the second at {{ clock(told.run.load.busiestAt) }}:
      {{ told.run.load.inBusiest }}, which take {{ told.run.load.percent }} % of it.
    </p>
    <StoryVerdicts v-if="told" :verdicts="told.run.verdicts" @remove="(x) => (expectations = expectations.filter((e) => e.id !== x))" />
    <StoryLanes v-if="told" :run="told.run" :over="told.over" :device="id" :names="told.devices" @lead="(p) => emit('lead', p)" @expect="expect" />
    <p class="dim tiny">
      → sensed, ● driven, ✉ said or heard. A press near a dot, or the arrows, say why it changed and which parameter decides it. Computed by what the device
      itself does, with each telegram as long as it is on the line.
    </p>
  </div>
</template>

<style scoped>
.story {
  padding: 10px 16px;
}
.tools {
  display: flex;
  gap: 10px;
  flex-wrap: wrap;
  align-items: center;
  margin-bottom: 10px;
}
</style>
