<script setup lang="ts">
import { computed, ref } from 'vue'
import { post } from '../api/http'
import type { Point } from '../api/records'
import { useStore } from '../store'
import { useDo } from '../useDo'

/** Holding an output by hand, or simulating an input of the virtual site: a value, a way to one, or a course of many; reason and end. */
const props = defineProps<{ point: Point }>()
const emit = defineEmits<{ done: [] }>()
const attempt = useDo()
const store = useStore()
const isInput = props.point.role === 'sensor'
const value = ref<number | null>(store.live.get(`p:${props.point.id}`)?.v ?? props.point.fallback ?? 0)
const why = ref('')
const minutes = ref(120)
const FOREVER = 0
const ends = [
  { value: 30, label: 'for 30 minutes' },
  { value: 120, label: 'for 2 hours' },
  { value: 480, label: 'for 8 hours' },
  { value: 1440, label: 'for a day' },
  { value: FOREVER, label: 'until released' },
]
const states = (props.point.stateTexts ?? []).map((label, i) => ({ label, value: props.point.kind === 'binary' ? i : i + 1 }))
type How = 'stays' | 'goes' | 'course'
const how = ref<How>('stays')
const hows = computed(() => [
  { value: 'stays' as How, label: 'stays at' },
  ...(states.length ? [] : [{ value: 'goes' as How, label: 'goes to' }]),
  { value: 'course' as How, label: 'follows a course' },
])
const over = ref<number | null>(10)
const unit = props.point.unit ? ` ${props.point.unit}` : ''
const course = ref('')
const example = states.length
  ? `${states[1]?.label} for 10 min\n${states[0]!.label} for 5 min\nbroken for 2 min\nagain`
  : `30${unit} over 20 min\n30${unit} for 5 min\nbroken for 2 min\nagain`
async function hold() {
  const text = how.value === 'course' ? course.value : how.value === 'goes' ? `${value.value}${unit} over ${over.value} min` : null
  const body = { pointId: props.point.id, value: value.value ?? 0, why: why.value, minutes: minutes.value === FOREVER ? null : minutes.value, course: text }
  const done = isInput ? `▣ ${props.point.name} is simulated` : `◐ ${props.point.name} is held by hand`
  if (await attempt(() => (isInput ? post('/held/inputs', { body }) : post('/held', { body })), done)) emit('done')
}
</script>

<template>
  <form class="hold" @submit.prevent="hold" @keydown.esc.stop="emit('done')">
    <ChooseOne v-if="isInput" v-model="how" :options="hows" label="How it is simulated" />
    <label v-if="how === 'course'" class="row"
      ><span>Course</span
      ><TextBox v-model="course" type="textarea" mono required maxlength="8000" :rows="4" :placeholder="example" spellcheck="false" aria-label="Course"
    /></label>
    <label v-else class="row"
      ><span>{{ isInput ? 'Value' : 'Hold at' }}</span>
      <PickOne v-if="states.length" id="hold-value" v-model="value" :options="states" aria-label="Value" />
      <NumberBox v-else id="hold-value" v-model="value" :unit="point.unit" required aria-label="Value" />
    </label>
    <label v-if="how === 'goes'" class="row"><span>Within</span><NumberBox v-model="over" unit="min" required aria-label="Within" /></label>
    <label class="row"><span>Until</span><PickOne id="hold-until" v-model="minutes" :options="ends" aria-label="Until" /></label>
    <label class="row"
      ><span>Why</span><TextBox id="hold-why" v-model="why" required maxlength="200" placeholder="who finds it held will want to know"
    /></label>
    <p class="acts">
      <NButton type="primary" size="small" attr-type="submit">{{ isInput ? 'Simulate' : 'Hold by hand' }}</NButton><NButton size="small" @click="emit('done')"
        >Cancel</NButton
      >
    </p>
  </form>
</template>

<style scoped>
.hold {
  background: var(--sunk);
  border-radius: 8px;
  padding: 6px 10px 9px;
}
label.row {
  grid-template-columns: 70px 1fr;
}
</style>
