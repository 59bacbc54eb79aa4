<script setup lang="ts">
import { useEventListener, useLocalStorage } from '@vueuse/core'
import { computed, nextTick, ref } from 'vue'
import { many } from '../shared/numbers'
import BlockPane from './BlockPane.vue'
import ClauseList from './ClauseList.vue'
import ExchangeRow from './ExchangeRow.vue'
import FindingBars from './FindingBars.vue'
import InsertBar from './InsertBar.vue'
import LedgerView from './LedgerView.vue'
import ModeTable from './ModeTable.vue'
import OutputPane from './OutputPane.vue'
import PasteBox from './PasteBox.vue'
import ScanBar from './ScanBar.vue'
import SequenceDiagram from './SequenceDiagram.vue'
import SeveralPane from './SeveralPane.vue'
import TestList from './TestList.vue'
import { usePasting } from './usePasting'
import { useSequence } from './useSequence'

const props = defineProps<{ sequence: string }>()
const root = ref<HTMLElement>()
const work = useSequence(() => props.sequence)
const { view, s, may, picked, held } = work
const pasting = usePasting(work)
const block = computed(() => (picked.value.length === 1 ? work.byId(picked.value[0]!) : undefined))
const output = computed(() => (picked.value.length === 1 ? work.ladderBy(picked.value[0]!) : undefined))
const tables = computed(() => (s.value?.blocks ?? []).filter((b) => b.kind === 'modes'))
/** Diagram or ledger: two lenses of the same sequence; the one chosen last is kept on this computer. */
const lens = useLocalStorage<'diagram' | 'ledger'>('sequence-lens', 'diagram')
const lenses = [
  { value: 'diagram', label: 'Diagram' },
  { value: 'ledger', label: 'Ledger' },
]
const diagram = ref<InstanceType<typeof SequenceDiagram>>()
const focusFirstSource = () =>
  void nextTick(() => setTimeout(() => root.value?.querySelector<HTMLInputElement>('.inspect [data-pin] input, .inspect input[data-pin]')?.focus(), 50))
async function insert(kind: string) {
  await work.insert(kind)
  focusFirstSource()
}
const ledger = ref<InstanceType<typeof LedgerView>>()
const tests = ref<InstanceType<typeof TestList>>()
/** From one lens to the other; the ledger takes the caret. */
function turn() {
  lens.value = lens.value === 'ledger' ? 'diagram' : 'ledger'
  void nextTick(() => ledger.value?.focus())
}
function letGo() {
  held.value = null
  picked.value = []
}
function key(e: KeyboardEvent) {
  const target = e.target as HTMLElement
  if (e.defaultPrevented || target.closest('input, select, textarea, [role=combobox]')) return
  if (target !== document.body && !root.value?.contains(target)) return
  const meta = e.ctrlKey || e.metaKey
  const letter = e.key.toLowerCase()
  if (e.key === 'Delete' && picked.value.length && may.value) void work.remove()
  else if (meta && letter === 'd' && may.value) void work.duplicate()
  else if (meta && letter === 'c' && picked.value.length && !window.getSelection()?.toString()) pasting.copy()
  else if (meta && letter === 'v' && may.value && pasting.copied.value) void pasting.paste()
  else if (meta && letter === 'a') picked.value = (s.value?.blocks ?? []).map((b) => b.id)
  else if (!meta && letter === 'l') turn()
  else if (!meta && letter === 'b') root.value?.querySelector<HTMLInputElement>('#insert')?.focus()
  else if (e.key === 'Escape' && (held.value || picked.value.length)) letGo()
  else if (e.key === ' ') diagram.value?.gather(e.target as HTMLElement)
  else if (e.key === 'Enter' && picked.value.length === 1) focusFirstSource()
  else return
  e.preventDefault()
  e.stopPropagation()
}
// The keys work as soon as the page is open, wherever the focus is on it.
useEventListener(window, 'keydown', key)
</script>

<template>
  <PageShell :title="s?.name ?? 'Sequence'" :problem="work.problem.value" @again="work.reload">
    <template v-if="view && s" #facts>
      <ChooseOne v-model="lens" :options="lenses" label="How it is shown" size="small" />
      <FactTag v-if="view.equipment !== s.name" :title="view.path">{{ view.equipment }}</FactTag>
      <FactTag :tone="view.findings.length ? 'amber' : 'moss'">{{
        view.findings.length ? `▲ ${many(view.findings.length, 'finding')}` : '✓ checks pass'
      }}</FactTag>
      <span class="acts"
        >runs on
        <RecordPicker
          nouns="controller"
          reverts
          size="small"
          :says="view.controller ?? ''"
          :disabled="!may"
          placeholder="no controller"
          aria-label="Runs on"
          style="width: 130px"
          @choose="(c) => work.save({ ...s!, controllerId: c?.id ?? null })"
        />
        every
        <NumberBox
          :model-value="s.scanSeconds"
          :width="70"
          unit="s"
          size="small"
          :disabled="!may"
          aria-label="Scan period in seconds"
          @update:model-value="(v) => work.save({ ...s!, scanSeconds: v ?? 0 })"
        />
      </span>
    </template>
    <div v-if="view && s" ref="root" class="cols">
      <div class="left">
        <FindingBars v-if="view.findings.length" :findings="view.findings" :may="may" @fix="work.fix" />
        <LedgerView ref="ledger" v-if="lens === 'ledger'" :work="work" />
        <template v-else>
          <SequenceDiagram ref="diagram" :work="work" />
          <InsertBar v-if="may" :work="work" @insert="insert" />
        </template>
        <ScanBar v-if="s.controllerId" :work="work" />
        <ModeTable v-for="b in tables" :key="b.id" :work="work" :block="b" />
        <ClauseList
          :sequence="s"
          :picked="picked"
          :may="may"
          :say="work.called"
          :save="work.save"
          @show="(ids) => (picked = ids)"
          @propose="(id) => tests?.propose(id)"
        />
        <TestList ref="tests" :sequence="s" :may="may" :say="work.called" :save="work.save" @show="(ids) => (picked = ids)" />
        <ExchangeRow :work="work" />
        <PasteBox :pasting="pasting" />
      </div>
      <aside class="inspect sheet" aria-label="Properties">
        <p v-if="held" class="bar decides">
          Now click the input that takes <b>{{ work.sourceText(held.source) }}</b>. <kbd>Esc</kbd> lets go.
        </p>
        <BlockPane v-if="block" :key="block.id" :work="work" :block="block" />
        <OutputPane v-else-if="output" :key="output.pointId" :work="work" :output="output" />
        <SeveralPane v-else-if="picked.length > 1" :work="work" :pasting="pasting" />
        <p v-else-if="!held" class="dim">
          Choose a block or an output to see and change it. Lines: thick is on, thin is off or a number, dotted is released, dashed is stale or in fault.
        </p>
      </aside>
    </div>
  </PageShell>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 12px;
  align-items: start;
}
.left {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-width: 0;
}
.inspect {
  display: grid;
  gap: 4px;
  position: sticky;
  top: 0;
  max-height: calc(100vh - 180px);
  overflow: auto;
}
.inspect :deep(label.row) {
  grid-template-columns: 96px minmax(0, 1fr);
}
</style>
