<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import { newId, type Sequence } from '../shared/api/records'
import type { Schemas } from '../shared/api/http'

/** The paragraphs of the specification that a sequence must meet, each with what meets it. */
const props = defineProps<{
  sequence: Sequence
  picked: string[]
  may: boolean
  say: (id: string) => string
  save: (next: Sequence, label: string) => Promise<boolean>
}>()
const emit = defineEmits<{ show: [ids: string[]] }>()
const clauses = computed(() => props.sequence.clauses ?? [])
const list = ref<HTMLElement>()
type Clause = Schemas['Clause']
/** What meets a clause and still stands, as the diagram numbers its nodes: blocks by id, outputs as o:id. */
const met = (c: Clause) => [
  ...(c.blocks ?? []).filter((b) => props.sequence.blocks?.some((x) => x.id === b)),
  ...(c.outputs ?? []).filter((o) => props.sequence.commands?.some((x) => x.pointId === o)).map((o) => `o:${o}`),
]
const write = (next: Clause[], label: string) => props.save({ ...props.sequence, clauses: next }, label)
const number = (c: Clause) => clauses.value.indexOf(c) + 1
const replace = (c: Clause, patch: Partial<Clause>, label: string) =>
  write(
    clauses.value.map((x) => (x === c ? { ...x, ...patch } : x)),
    label,
  )
async function add() {
  const text = 'What the specification asks for.'
  if (await write([...clauses.value, { id: newId('cl'), text, blocks: [], outputs: [] }], `Added clause ${clauses.value.length + 1}`)) {
    await nextTick()
    list.value?.querySelector<HTMLTextAreaElement>('li:last-child textarea')?.select()
  }
}
async function reword(c: Clause, e: Event) {
  const box = e.target as HTMLTextAreaElement
  if (box.value.trim() === c.text) return
  if (!(await replace(c, { text: box.value.trim() }, `Reworded clause ${number(c)}`))) box.value = c.text
}
/** Names what is picked in the diagram as what meets this clause. */
const meet = (c: Clause) =>
  replace(
    c,
    {
      blocks: [...new Set([...(c.blocks ?? []), ...props.picked.filter((p) => !p.startsWith('o:'))])],
      outputs: [...new Set([...(c.outputs ?? []), ...props.picked.filter((p) => p.startsWith('o:')).map((p) => p.slice(2))])],
    },
    `Said what meets clause ${number(c)}`,
  )
const unmeet = (c: Clause, id: string) =>
  replace(
    c,
    { blocks: (c.blocks ?? []).filter((b) => b !== id), outputs: (c.outputs ?? []).filter((o) => `o:${o}` !== id) },
    `Took ‘${props.say(id)}’ off clause ${number(c)}`,
  )
function move(c: Clause, by: 1 | -1) {
  const next = [...clauses.value]
  const at = next.indexOf(c)
  next.splice(at, 1)
  next.splice(at + by, 0, c)
  void write(next, `Moved clause ${at + 1} to ${at + 1 + by}`)
}
const remove = (c: Clause) =>
  write(
    clauses.value.filter((x) => x !== c),
    `Removed clause ${number(c)}`,
  )
</script>

<template>
  <section ref="list" class="sheet clauses" aria-label="Clauses">
    <div class="head">
      <h2>Clauses</h2>
      <span class="dim">what the specification asks of this sequence, and what meets it</span><span class="space" />
      <button v-if="may" id="add-clause" class="btn small" @click="add">Add a clause</button>
    </div>
    <p v-if="!clauses.length" class="dim">
      None yet. Write each paragraph of the specification as a clause; pick blocks or outputs in the diagram to say what meets it. What nothing meets is a
      finding.
    </p>
    <ol v-else>
      <li v-for="(c, i) in clauses" :key="c.id">
        <span class="mono">{{ i + 1 }}</span>
        <div>
          <textarea
            v-if="may"
            class="field"
            :value="c.text"
            :rows="Math.max(1, Math.ceil(c.text.length / 125))"
            maxlength="1000"
            :aria-label="`Clause ${i + 1}`"
            @change="reword(c, $event)"
            @keydown.stop
          />
          <p v-else>{{ c.text }}</p>
          <span class="by">
            <span v-if="!met(c).length" class="pill amber">▲ met by nothing</span>
            <button v-else class="link" title="Show it in the diagram" @click="emit('show', met(c))">met by</button>
            <span v-for="id in met(c)" :key="id" class="pill"
              >{{ say(id) }}<button v-if="may" class="x" :aria-label="`${say(id)} does not meet clause ${i + 1}`" @click="unmeet(c, id)">✕</button></span
            >
            <template v-if="may">
              <button
                class="btn small"
                :disabled="!picked.length"
                :title="picked.length ? 'What is picked in the diagram meets this clause' : 'Pick blocks or outputs in the diagram first'"
                @click="meet(c)"
              >
                Met by what is picked
              </button>
              <span class="space" />
              <button class="btn small" :aria-label="`Clause ${i + 1} up`" :disabled="i === 0" @click="move(c, -1)">↑</button>
              <button class="btn small" :aria-label="`Clause ${i + 1} down`" :disabled="i === clauses.length - 1" @click="move(c, 1)">↓</button>
              <button class="btn small" :aria-label="`Remove clause ${i + 1}`" @click="remove(c)">Remove</button>
            </template>
          </span>
        </div>
      </li>
    </ol>
  </section>
</template>

<style scoped>
.clauses {
  display: grid;
  gap: 8px;
}
ol {
  margin: 0;
  padding: 0;
  list-style: none;
  display: grid;
  gap: 10px;
}
li {
  display: grid;
  grid-template-columns: 18px minmax(0, 1fr);
}
textarea {
  width: 100%;
  resize: vertical;
  font: inherit;
}
.by {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.x {
  border: 0;
  background: none;
  cursor: pointer;
  padding: 0 0 0 4px;
  color: inherit;
}
</style>
