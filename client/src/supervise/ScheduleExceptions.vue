<script setup lang="ts">
import { ref } from 'vue'
import type { Schedule } from '../shared/api/records'

/** The days that go otherwise than their week says: named, one or several, with hours of their own or none. */
const props = defineProps<{
  schedule: Schedule
  may: boolean
  say: (value: number) => string
  otherwise: string
  states: { value: number; label: string }[]
  save: (patch: Partial<Schedule>, label: string) => Promise<boolean>
}>()
const name = ref('')
const from = ref('')
const through = ref('')
const hours = ref<{ from: string; to: string }[]>([])
const value = ref(props.states[0]?.value ?? 1)
async function add() {
  const spans = hours.value.filter((h) => h.from && h.to).map((h) => ({ ...h, value: value.value }))
  const exceptions = [...(props.schedule.exceptions ?? []), { name: name.value.trim(), from: from.value, through: through.value || null, spans }]
  if (!(await props.save({ exceptions }, `Added the exception ‘${name.value}’ to ‘${props.schedule.name}’`))) return
  name.value = from.value = through.value = ''
  hours.value = []
}
const remove = (index: number, called: string) =>
  props.save({ exceptions: props.schedule.exceptions!.filter((_, n) => n !== index) }, `Removed the exception ‘${called}’`)
</script>

<template>
  <div class="sheet">
    <h2>Exceptions</h2>
    <p v-for="(x, i) in schedule.exceptions ?? []" :key="i" class="line">
      <b>{{ x.name }}</b><span class="mono">{{ x.from }}{{ x.through ? ` to ${x.through}` : '' }}</span
      ><span>{{ x.spans?.length ? x.spans.map((p) => `${say(p.value)} ${p.from}–${p.to}`).join(', ') : `${otherwise} all day` }}</span
      ><NButton v-if="may" size="small" quaternary :aria-label="`Remove ${x.name}`" @click="remove(i, x.name)">✕</NButton>
    </p>
    <p v-if="!schedule.exceptions?.length" class="dim">None: every week goes alike.</p>
    <form v-if="may" @submit.prevent="add">
      <TextBox v-model="name" required placeholder="public holiday" aria-label="Name" />
      <p class="acts">
        <DateBox v-model="from" required aria-label="From" placeholder="from" />
        <DateBox v-model="through" aria-label="Through, if several days" placeholder="through" clearable />
      </p>
      <p v-for="(h, i) in hours" :key="i" class="acts">
        <TimeBox v-model="h.from" required :aria-label="`Begins, ${i + 1}`" />–<TimeBox v-model="h.to" required :aria-label="`Ends, ${i + 1}`" />
        <NButton size="small" quaternary :aria-label="`Without hours ${i + 1}`" @click="hours.splice(i, 1)">✕</NButton>
      </p>
      <p class="acts">
        <PickOne v-if="states.length > 1 && hours.length" v-model="value" :options="states" aria-label="State of these hours" style="width: 110px" />
        <span v-if="!hours.length" class="dim">{{ otherwise }} all day</span>
        <NButton size="small" @click="hours.push({ from: '', to: '' })">Hours…</NButton><NButton attr-type="submit">Add</NButton>
      </p>
    </form>
  </div>
</template>

<style scoped>
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  border-bottom: 1px solid var(--rule);
  padding: 3px 0;
}
form {
  display: grid;
  gap: 6px;
  margin-top: 8px;
}
</style>
