<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import TextBox from '../shared/ui/TextBox.vue'
import { caretLine, numbered, placeOf, replaced, unkept } from './ledger'
import LedgerOffers from './LedgerOffers.vue'
import LineCompare from './LineCompare.vue'
import type { SequenceWork } from './useSequence'

/** A sequence as numbered lines of named results: written, read and watched like the diagram. */
const props = defineProps<{ work: SequenceWork }>()
const { s, may, live, pinLive, picked } = props.work
const path = computed(() => ({ id: s.value!.id }))
const { value: ledger, reload } = useShown('/sequences/{id}/ledger', () => ({ path: path.value }), ['sequence', 'point', 'schedule', 'equipment', 'controller'])
/** What has been typed and is not kept yet. */
const typed = computed(() => unkept.get(s.value!.id)?.text ?? null)
const problems = ref<Schemas['LedgerProblem'][]>([])
const offers = ref<Schemas['LedgerOffer'][]>([])
const at = ref(0)
const compares = ref(false)
const box = ref<InstanceType<typeof TextBox>>()
const element = () => box.value?.element() as HTMLTextAreaElement | undefined
const text = computed(() => typed.value ?? ledger.value?.text ?? '')
const rows = computed(() => text.value.split('\n').length)
const lines = computed(() => (typed.value === null ? (ledger.value?.lines ?? []) : []))
const wrongOn = (n: number) => problems.value.find((p) => p.line === n)
const says = (l: Schemas['LedgerLine']) => {
  if (!l.of || /^\s/.test(l.text)) return ''
  return (l.of.startsWith('o:') ? live(`p:${l.of.slice(2)}`) : pinLive(l.of))?.text ?? ''
}
const list = (n: readonly number[]) => n.slice(0, 3).join(' ') + (n.length > 3 ? ' …' : '')
const read = useDebounceFn(async () => {
  if (typed.value === null) return
  problems.value = (await post('/sequences/{id}/ledger/read', { path: path.value, body: { text: typed.value } }).catch(() => null))?.problems ?? []
}, 350)
let turn = 0
async function offer() {
  const e = element()
  if (!e || !may.value) return
  const mine = ++turn
  const place = caretLine(e.value, e.selectionStart)
  const found = await post('/sequences/{id}/ledger/offers', { path: path.value, body: { text: e.value, line: place.text, at: place.at } }).catch(() => [])
  if (mine === turn) [offers.value, at.value] = [found, 0]
}
const offerSoon = useDebounceFn(offer, 160)
function type(value: string) {
  const { id } = s.value!
  if (value === ledger.value?.text) unkept.delete(id)
  else unkept.set(id, { text: value, from: unkept.get(id)?.from ?? props.work.view.value!.revision })
  void read()
  void offerSoon()
}
function take(o: Schemas['LedgerOffer'] | undefined) {
  const e = element()
  if (!e || !o) return
  const next = replaced(e.value, e.selectionStart, o)
  offers.value = []
  type(next.text)
  void nextTick(() => e.setSelectionRange(next.at, next.at))
}
async function keep() {
  if (typed.value === null) return
  const answer = await post('/sequences/{id}/ledger/read', { path: path.value, body: { text: typed.value } })
  problems.value = answer.problems
  if (answer.problems.length) return show(answer.problems[0]!)
  const { id, name } = s.value!
  if (await props.work.save(answer.sequence, `Wrote the ledger of ‘${name}’`, unkept.get(id)!.from)) {
    await reload()
    unkept.delete(id)
  }
}
function revert() {
  unkept.delete(s.value!.id)
  problems.value = []
  offers.value = []
}
/** Sets the caret where something cannot be read. */
function show(p: Schemas['LedgerProblem']) {
  const e = element()
  if (!e) return
  const place = placeOf(e.value, p.line, p.at)
  e.focus()
  e.setSelectionRange(place, place)
}
function key(e: KeyboardEvent) {
  e.stopPropagation()
  if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) void keep()
  else if (e.key === ' ' && e.ctrlKey) void offer()
  else if (e.key === 'Escape' && offers.value.length) offers.value = []
  else if (offers.value.length && e.key === 'ArrowDown') at.value = (at.value + 1) % offers.value.length
  else if (offers.value.length && e.key === 'ArrowUp') at.value = (at.value + offers.value.length - 1) % offers.value.length
  else if (offers.value.length && e.key === 'Tab' && !e.shiftKey) take(offers.value[at.value])
  else return
  e.preventDefault()
}
/** The line in which the caret stands is what is picked, so that its help and its properties are beside it. */
function pick() {
  const e = element()
  const of = e && lines.value[caretLine(e.value, e.selectionStart).line - 1]?.of
  if (of) picked.value = [of]
}
watch(
  () => s.value?.id,
  () => {
    offers.value = []
    problems.value = []
    void read()
  },
  { immediate: true },
)
const print = () => window.print()
defineExpose({ focus: () => element()?.focus() })
</script>

<template>
  <section class="sheet ledger" aria-label="Ledger">
    <div class="page">
      <ol class="margin" aria-hidden="true">
        <li v-for="n in rows" :key="n" :class="{ bad: wrongOn(n) }">
          <span class="feeds" :title="lines[n - 1]?.reads.length ? `reads line ${lines[n - 1]!.reads.join(', ')}` : undefined">{{
            lines[n - 1]?.reads.length ? `↑${list(lines[n - 1]!.reads)}` : ''
          }}</span>
          <b>{{ wrongOn(n) ? '✕' : '' }}{{ n }}</b>
        </li>
      </ol>
      <TextBox
        id="ledger"
        ref="box"
        type="textarea"
        mono
        class="text"
        :model-value="text"
        :rows="Math.max(rows, 3)"
        :disabled="!may"
        spellcheck="false"
        autocomplete="off"
        wrap="off"
        aria-label="Lines of the ledger"
        placeholder="Too warm = Room temperature > 29 °C"
        @update:model-value="type"
        @keydown="key"
        @click="pick"
        @keyup="pick"
      />
      <ol class="margin now">
        <li v-for="n in rows" :key="n">
          <span class="mono value">{{ lines[n - 1] ? says(lines[n - 1]!) : '' }}</span>
          <span class="feeds" :title="lines[n - 1]?.readBy.length ? `read by line ${lines[n - 1]!.readBy.join(', ')}` : undefined">{{
            lines[n - 1]?.readBy.length ? `→${list(lines[n - 1]!.readBy)}` : ''
          }}</span>
          <span v-if="lines[n - 1]?.order" class="order" title="place in the order of calculation">{{ lines[n - 1]!.order }}.</span>
        </li>
      </ol>
    </div>
    <pre class="print" aria-hidden="true">{{ numbered(text) }}</pre>
    <LedgerOffers v-if="offers.length" class="offers" :offers="offers" :at="at" @take="take" />
    <p v-for="p in problems" :key="`${p.line}.${p.at}`" class="wrong">
      <NButton text type="error" @click="show(p)">Line {{ p.line }}, character {{ p.at + 1 }}</NButton
      >: {{ p.sentence }}
    </p>
    <div class="head">
      <template v-if="typed !== null">
        <NButton id="keep-ledger" type="primary" size="small" @click="keep">Keep</NButton><NButton size="small" @click="revert">Go back</NButton>
        <span class="dim">not kept yet</span>
      </template>
      <span v-if="may" class="dim tiny"><kbd>Ctrl ↵</kbd> keep · <kbd>Ctrl Space</kbd> what could be written, <kbd>Tab</kbd> takes it</span>
      <span class="space" />
      <NCheckbox v-if="ledger?.against.length" v-model:checked="compares" size="small">against what runs</NCheckbox>
      <span v-else-if="ledger?.runs" class="dim tiny">the controller runs these lines</span>
      <NButton size="small" @click="print">Print</NButton>
    </div>
    <LineCompare v-if="compares && ledger" :lines="ledger.against" label="Against what runs" />
  </section>
</template>

<style scoped>
.ledger {
  display: grid;
  gap: 6px;
}
.page {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr) auto;
}
.text :deep(.n-input__textarea-el) {
  font: 13px/22px var(--mono) !important;
  white-space: pre !important;
  overflow-x: auto;
}
.text :deep(.n-input-wrapper),
.text :deep(.n-input__textarea-el) {
  resize: none;
}
.margin {
  margin: 0;
  padding: 4px 6px;
  list-style: none;
  color: var(--ink-2);
  font: 12px/22px var(--mono);
}
.margin li {
  display: flex;
  gap: 8px;
  justify-content: flex-end;
  height: 22px;
  white-space: nowrap;
}
.margin.now li {
  justify-content: flex-start;
}
.margin .bad {
  color: var(--crimson);
}
.value {
  color: var(--plum);
  min-width: 62px;
}
.print {
  display: none;
}
@media print {
  .print {
    display: block;
    white-space: pre-wrap;
    font: 11px/1.5 var(--mono);
  }
  .page,
  .offers,
  .head {
    display: none;
  }
  :global(.inspect) {
    display: none !important;
  }
}
</style>
