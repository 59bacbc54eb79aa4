<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import { newId, type Sequence } from '../shared/api/records'
import { post, type Schemas } from '../shared/api/http'
import { useDo } from '../shared/useDo'

/** The paragraphs of the specification that a sequence must meet, each with what meets it. */
const props = defineProps<{
  sequence: Sequence
  picked: string[]
  may: boolean
  say: (id: string) => string
  save: (next: Sequence, label: string) => Promise<boolean>
}>()
const emit = defineEmits<{ show: [ids: string[]]; propose: [clauseId: string] }>()
const clauses = computed(() => props.sequence.clauses ?? [])
const attempt = useDo()
const list = ref<HTMLElement>()
type Clause = Schemas['Clause']
/** What meets a clause and still stands, as the diagram numbers its nodes: blocks by id, outputs as o:id. */
const met = (c: Clause) => [
  ...(c.blocks ?? []).filter((b) => props.sequence.blocks?.some((x) => x.id === b)),
  ...(c.outputs ?? []).filter((o) => props.sequence.commands?.some((x) => x.pointId === o)).map((o) => `o:${o}`),
  ...(c.modes ?? []).filter((m) => modes.value.some((x) => x.value === m)).map((m) => `m:${m}`),
]
/** The modes of its tables, each by its table and its slot. */
const modes = computed(() =>
  (props.sequence.blocks ?? []).flatMap((b) => (b.modes?.modes ?? []).map((m) => ({ value: `${b.id}/${m.slot}`, label: `${props.say(b.id)}: ${m.name}` }))),
)
const called = (id: string) => (id.startsWith('m:') ? modes.value.find((m) => m.value === id.slice(2))!.label : props.say(id))
/** What to pick in the diagram to show it: of a mode its table. */
const shownBy = (ids: string[]) => [...new Set(ids.map((id) => (id.startsWith('m:') ? id.slice(2).split('/')[0]! : id)))]
const meetBy = (c: Clause, mode: string) => replace(c, { modes: [...new Set([...(c.modes ?? []), mode])] }, `Said which mode meets clause ${number(c)}`)
const write = (next: Clause[], label: string) => props.save({ ...props.sequence, clauses: next }, label)
const number = (c: Clause) => clauses.value.indexOf(c) + 1
const replace = (c: Clause, patch: Partial<Clause>, label: string) =>
  write(
    clauses.value.map((x) => (x === c ? { ...x, ...patch } : x)),
    label,
  )
const pasting = ref(false)
const pasted = ref('')
/** Each paragraph of what was pasted becomes a clause behind those there are. */
async function split() {
  await attempt(async () => {
    const parts = await post('/clauses/split', { body: { text: pasted.value } })
    const made = parts.map((text) => ({ id: newId('cl'), text, blocks: [], outputs: [] }))
    if (await write([...clauses.value, ...made], `Added ${made.length} clauses from a text`)) [pasting.value, pasted.value] = [false, '']
  })
}
const approve = (c: Clause, approved: boolean) => replace(c, { approved }, `${approved ? 'Approved' : 'Took back the approval of'} clause ${number(c)}`)
async function add() {
  const text = 'What the specification asks for.'
  if (await write([...clauses.value, { id: newId('cl'), text, blocks: [], outputs: [] }], `Added clause ${clauses.value.length + 1}`)) {
    await nextTick()
    list.value?.querySelector<HTMLTextAreaElement>('li:last-child textarea')?.select()
  }
}
const reword = (c: Clause, text: string) => text.trim() !== c.text && replace(c, { text: text.trim(), approved: false }, `Reworded clause ${number(c)}`)
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
    {
      blocks: (c.blocks ?? []).filter((b) => b !== id),
      outputs: (c.outputs ?? []).filter((o) => `o:${o}` !== id),
      modes: (c.modes ?? []).filter((m) => `m:${m}` !== id),
    },
    `Took ‘${called(id)}’ off clause ${number(c)}`,
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
const run: Record<string, (c: Clause) => unknown> = { up: (c) => move(c, -1), down: (c) => move(c, 1), remove }
const actions = (i: number) => [
  { key: 'up', label: 'Up', disabled: i === 0 },
  { key: 'down', label: 'Down', disabled: i === clauses.value.length - 1 },
  { key: 'remove', label: 'Remove' },
]
</script>

<template>
  <section ref="list" class="sheet clauses" aria-label="Clauses">
    <div class="head">
      <h2>Clauses</h2>
      <span class="dim">what the specification asks of this sequence, and what meets it</span><span class="space" />
      <NButton size="small" v-if="may" id="paste-clauses" :aria-expanded="pasting" @click="pasting = !pasting">Paste text…</NButton>
      <NButton size="small" v-if="may" id="add-clause" @click="add">Add a clause</NButton>
    </div>
    <div v-if="pasting" class="paste">
      <TextBox
        id="clause-text"
        type="textarea"
        :rows="6"
        :model-value="pasted"
        maxlength="100000"
        placeholder="Paste the specification's paragraphs here; each becomes a clause."
        aria-label="Text of the specification"
        @update:model-value="(t: string) => (pasted = t)"
      />
      <p class="acts"><NButton id="split-clauses" size="small" type="primary" :disabled="!pasted.trim()" @click="split">Make clauses of it</NButton></p>
    </div>
    <p v-if="!clauses.length" class="dim">
      None yet. Write each paragraph of the specification as a clause; pick blocks or outputs in the diagram to say what meets it. What nothing meets is a
      finding.
    </p>
    <ol v-else>
      <li v-for="(c, i) in clauses" :key="c.id">
        <span class="mono">{{ i + 1 }}</span>
        <div>
          <TextBox
            v-if="may"
            type="textarea"
            lazy
            :model-value="c.text"
            maxlength="1000"
            :aria-label="`Clause ${i + 1}`"
            @update:model-value="(t: string) => reword(c, t)"
          />
          <p v-else>{{ c.text }}</p>
          <span class="by">
            <FactTag tone="amber" v-if="!met(c).length">▲ met by nothing</FactTag>
            <NButton text type="info" v-else title="Show it in the diagram" @click="emit('show', shownBy(met(c)))">met by</NButton>
            <NTag
              v-for="id in met(c)"
              :key="id"
              size="small"
              :closable="may"
              :internal-close-focusable="true"
              :title="may ? `Close it to say that it does not meet clause ${i + 1}` : undefined"
              @close="unmeet(c, id)"
              >{{ called(id) }}</NTag
            >
            <NCheckbox
              size="small"
              :checked="c.approved"
              :disabled="!may"
              :aria-label="`Clause ${i + 1} is approved`"
              @update:checked="(v: boolean) => approve(c, v)"
              >approved</NCheckbox
            >
            <template v-if="may">
              <NButton
                size="small"
                :disabled="!picked.length"
                :title="picked.length ? 'What is picked in the diagram meets this clause' : 'Pick blocks or outputs in the diagram first'"
                @click="meet(c)"
              >
                Met by what is picked
              </NButton>
              <PickOne
                v-if="modes.length"
                :model-value="null"
                :options="modes.filter((m) => !(c.modes ?? []).includes(m.value))"
                size="small"
                placeholder="Met by a mode…"
                :aria-label="`Mode that meets clause ${i + 1}`"
                style="width: 150px"
                @update:model-value="(m: string) => meetBy(c, m)"
              />
              <NButton size="small" :aria-label="`Propose a test of clause ${i + 1}`" @click="emit('propose', c.id)">Propose a test</NButton>
              <span class="space" />
              <NDropdown trigger="click" :options="actions(i)" :keyboard="true" @select="(act: string) => run[act]!(c)"
                ><NButton size="small" quaternary :aria-label="`What to do with clause ${i + 1}`">⋯</NButton></NDropdown
              >
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
.by {
  margin-top: 6px;
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
</style>
