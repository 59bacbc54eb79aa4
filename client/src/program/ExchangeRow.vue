<script setup lang="ts">
import { ref } from 'vue'
import { api, post, type Schemas } from '../shared/api/http'
import { many } from '../shared/numbers'
import { useDo } from '../shared/useDo'
import type { SequenceWork } from './useSequence'

/** The logic taken elsewhere, as a diagram or as text, and a diagram brought in: first it is said what could not be taken over. */
const props = defineProps<{ work: SequenceWork }>()
const { s, may, view } = props.work
const attempt = useDo()
const reading = ref<{ of: Schemas['LogicReading']; from: number } | null>(null)
const read = (blob: File) =>
  attempt(async () => {
    const from = view.value!.revision
    reading.value = { of: await post('/sequences/{id}/logic/read', { path: { id: s.value!.id }, body: blob }), from }
  })
async function take() {
  const { of, from } = reading.value!
  if (await props.work.save(of.sequence, `Took the logic of ‘${s.value!.name}’ from a diagram`, from)) reading.value = null
}
</script>

<template>
  <section class="sheet row" aria-label="Exchange">
    <span class="dim">Take the logic elsewhere:</span>
    <LinkButton size="small" :href="api(`/sequences/${s!.id}/logic.xml`)">Diagram, IEC 61131-10</LinkButton>
    <LinkButton size="small" :href="api(`/sequences/${s!.id}/logic.st`)">Structured text</LinkButton>
    <FilePick v-if="may" label="Bring a diagram in" accept=".xml" input-id="logic-file" size="small" @choose="read" />
    <ModalBox v-if="reading" label="The diagram" wide @close="reading = null">
      <h2>{{ many(reading.of.sequence.blocks?.length ?? 0, 'block') }}, {{ many(reading.of.sequence.commands?.length ?? 0, 'output') }}</h2>
      <p>It comes in place of the logic that is here, as one change; clauses and tests stay. Undo brings back what was.</p>
      <p v-if="!reading.of.notes.length" class="bar decides">✓ All of it could be taken over.</p>
      <p v-for="(n, i) in reading.of.notes.slice(0, 60)" :key="i" class="bar medium">
        ▲ <b>{{ n.what }}</b>: {{ n.why }}
      </p>
      <p v-if="reading.of.notes.length > 60" class="dim">and {{ reading.of.notes.length - 60 }} more</p>
      <p class="acts"><NButton id="take-logic" type="primary" @click="take">Take it over</NButton><NButton @click="reading = null">Leave</NButton></p>
    </ModalBox>
  </section>
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  padding-block: 8px;
}
</style>
