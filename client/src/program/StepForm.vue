<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Schemas } from '../shared/api/http'
import { days, emptySlots, lineOf, relations } from './steps'

/** A step of a test, chosen rather than typed: its kind, what it is about, values and times; it becomes a line of the text. */
const props = defineProps<{ forms: readonly Schemas['StepFormView'][]; subjects: readonly Schemas['SubjectView'][] }>()
const emit = defineEmits<{ add: [line: string] }>()
const word = ref('set')
const slots = ref(emptySlots())
const form = computed(() => props.forms.find((f) => f.word === word.value) ?? props.forms[0]!)
const has = (part: string) => form.value.parts.some((p) => p.startsWith(`{${part}`))
const offered = computed(() => props.subjects.filter((s) => !has('point') || s.canBeSet))
const subject = computed(() => props.subjects.find((s) => s.name === slots.value.subject))
const isPlain = computed(() => !has('condition') || !['released', 'in fault'].includes(slots.value.relation))
/** The times of this kind of step, by the word before each. */
const times = computed(() =>
  form.value.parts.flatMap((p, i) =>
    p.startsWith('{time') ? [{ key: form.value.parts[i - 1]?.startsWith('{') ? '' : (form.value.parts[i - 1] ?? ''), free: p.endsWith('?}') }] : [],
  ),
)
const asRelation = computed(() => (subject.value?.states.length ? relations.filter((r) => r === 'is' || r === 'released' || r === 'in fault') : relations))
watch(
  () => slots.value.subject,
  () => {
    slots.value.value = subject.value?.states[1] ?? null
    if (!(asRelation.value as readonly string[]).includes(slots.value.relation)) slots.value.relation = 'is'
  },
)
const line = computed(() => lineOf(form.value, slots.value, props.subjects))
</script>

<template>
  <form class="stepform" aria-label="Add a step by choosing" @submit.prevent="line && emit('add', line)">
    <PickOne v-model="word" :options="forms.map((f) => f.word)" size="small" aria-label="Kind of step" style="width: 128px" />
    <PickOne
      v-if="has('point') || has('subject')"
      v-model="slots.subject"
      :options="offered.map((s) => s.name)"
      size="small"
      placeholder="what"
      aria-label="What it is about"
      style="width: 190px"
    />
    <PickOne v-if="has('condition')" v-model="slots.relation" :options="asRelation" size="small" aria-label="How it must be" style="width: 96px" />
    <template v-if="(has('value') || has('condition')) && isPlain">
      <PickOne v-if="subject?.states.length" v-model="slots.value as string" :options="subject.states" size="small" aria-label="State" style="width: 110px" />
      <NumberBox v-else v-model="slots.value as number" size="small" :unit="subject?.unit" aria-label="Value" :width="96" />
      <template v-if="has('condition') && slots.relation === 'between'"
        ><span class="dim">and</span><NumberBox v-model="slots.upper" size="small" :unit="subject?.unit" aria-label="Upper value" :width="96"
      /></template>
    </template>
    <template v-if="has('moment')">
      <PickOne v-model="slots.day" :options="days" size="small" aria-label="Day" style="width: 120px" />
      <TimeBox v-model="slots.time" aria-label="Time of day" />
    </template>
    <template v-for="t in times" :key="t.key">
      <span class="dim">{{ t.key || 'for' }}</span>
      <NumberBox v-model="slots.times[t.key]!.count" size="small" :aria-label="`${t.key || 'for'} how long`" :placeholder="t.free ? 'any' : ''" :width="64" />
      <PickOne
        v-model="slots.times[t.key]!.unit"
        :options="['s', 'min', 'h', 'd']"
        size="small"
        :aria-label="`Unit of ${t.key || 'the time'}`"
        style="width: 72px"
      />
    </template>
    <NButton size="small" attr-type="submit" :disabled="!line" :title="line ?? 'Choose what is missing first'">Add this step</NButton>
    <code v-if="line" class="dim tiny">{{ line }}</code>
  </form>
</template>

<style scoped>
.stepform {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
</style>
