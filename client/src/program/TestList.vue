<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { newId, type Sequence } from '../shared/api/records'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import type { Tone } from '../shared/ui/FactTag.vue'
import BreakingList from './BreakingList.vue'
import StepForm from './StepForm.vue'
import TestProof from './TestProof.vue'

/** The function tests of a sequence: each a story of steps as text, the clauses it proves, and how it went when it was run last. */
const props = defineProps<{ sequence: Sequence; may: boolean; say: (id: string) => string; save: (next: Sequence, label: string) => Promise<boolean> }>()
const emit = defineEmits<{ show: [ids: string[]] }>()
type View = Schemas['TestView']
const store = useStore()
const attempt = useDo()
const list = ref<HTMLElement>()
const path = computed(() => ({ id: props.sequence.id }))
const { value: view, reload } = useShown('/sequences/{id}/tests', () => ({ path: path.value }), ['sequence', 'point', 'schedule', 'equipment'])
const tests = computed(() => props.sequence.tests ?? [])
const shown = computed(() => view.value?.tests ?? [])
const clauses = computed(() => (props.sequence.clauses ?? []).map((c, i) => ({ value: c.id, label: `Clause ${i + 1}`, title: c.text })))
const states: Record<View['state'], { mark: string; says: string; tone?: Tone }> = {
  notRun: { mark: '○', says: 'not run yet' },
  passed: { mark: '✓', says: 'passed', tone: 'moss' },
  failed: { mark: '✕', says: 'failed', tone: 'crimson' },
  stale: { mark: '◇', says: 'run before something changed', tone: 'amber' },
}
const passed = computed(() => shown.value.filter((t) => t.state === 'passed').length)
/** What was typed and cannot be read yet, by test: it stays until it can. */
const typed = ref<Record<string, { text: string; problems: Schemas['TestProblem'][] }>>({})
const unfolded = ref<string | null>(null)
const running = ref(false)
const choosing = ref<string | null>(null)
const grounds: { value: View['on']; label: string }[] = [
  { value: 'alone', label: 'on its own' },
  { value: 'plant', label: 'with its plant' },
  { value: 'site', label: 'on a copy of the site' },
]

const write = async (next: typeof tests.value, label: string) => {
  const done = await props.save({ ...props.sequence, tests: next }, label)
  await reload()
  return done
}
const patch = (id: string, change: Partial<Schemas['FunctionTest']>, label: string) =>
  write(
    tests.value.map((t) => (t.id === id ? { ...t, ...change } : t)),
    label,
  )
async function rewrite(t: View, text: string) {
  const read = await post('/sequences/{id}/tests/read', { path: path.value, body: { text } }).catch(() => null)
  if (!read || read.problems.length) {
    typed.value = { ...typed.value, [t.id]: { text, problems: read?.problems ?? [] } }
    return
  }
  if (await patch(t.id, { steps: read.steps }, `Wrote the test ‘${t.name}’`)) {
    const { [t.id]: _, ...others } = typed.value
    typed.value = others
  } else typed.value = { ...typed.value, [t.id]: { text, problems: [] } }
}
async function add() {
  const id = newId('test')
  if (await write([...tests.value, { id, name: `Test ${tests.value.length + 1}`, clauses: [], steps: [] }], `Added test ${tests.value.length + 1}`)) {
    await nextTick()
    list.value?.querySelector<HTMLTextAreaElement>('li:last-child textarea')?.focus()
  }
}
const remove = (t: View) =>
  write(
    tests.value.filter((x) => x.id !== t.id),
    `Removed the test ‘${t.name}’`,
  )
async function run(ids?: string[]) {
  running.value = true
  await attempt(() => post('/sequences/{id}/tests/run', { path: path.value, body: { tests: ids } }))
  await reload()
  running.value = false
  if (ids) unfolded.value = ids[0]!
  else unfolded.value = shown.value.find((t) => t.state === 'failed')?.id ?? null
}
/** Adds a test made of the words of a clause, and runs it. */
async function propose(clause: string) {
  const path = { id: props.sequence.id, clause }
  let made: Schemas['ProposalView'] | undefined
  if (!(await attempt(async () => void (made = await post('/sequences/{id}/clauses/{clause}/propose', { path }))))) return
  if (!made || !(await write([...tests.value, made.test], `Proposed the test ‘${made.test.name}’`))) return
  await run([made.test.id])
  await nextTick()
  list.value?.querySelector(`[data-test="${made.test.id}"]`)?.scrollIntoView({ block: 'center' })
}
defineExpose({ propose })
</script>

<template>
  <section ref="list" class="sheet tests" aria-label="Tests">
    <div class="head">
      <h2>Tests</h2>
      <FactTag v-if="shown.length" :tone="passed === shown.length ? 'moss' : undefined">{{ passed }} of {{ shown.length }} passed</FactTag>
      <span class="dim">stories that prove the clauses, on a bench of their own: nothing that is installed notices</span><span class="space" />
      <NButton v-if="shown.length && store.may('technician')" id="run-tests" size="small" type="primary" :loading="running" @click="run()">Run all</NButton>
      <NButton v-if="may" id="add-test" size="small" @click="add">Add a test</NButton>
    </div>
    <p v-if="!tests.length" class="dim">
      None yet. Write what must follow from what, a step a line, such as <code>{{ view?.forms.find((f) => f.word === 'set')?.example }}</code> and
      <code>{{ view?.forms.find((f) => f.word === 'expect')?.example }}</code>, or have one proposed from a clause; it runs in a moment, however long its story
      is.
    </p>
    <p v-if="may && view" class="dim tiny names">
      Steps: {{ view.forms.map((f) => f.example).join(' · ') }}. Names: {{ view.subjects.map((n) => n.name).join(', ') }}.
    </p>
    <ol v-if="tests.length">
      <li v-for="t in shown" :key="t.id" :data-test="t.id">
        <div class="row">
          <FactTag :tone="states[t.state].tone" data-state
            ><b>{{ states[t.state].mark }}</b> {{ states[t.state].says }}{{ t.revision != null ? ` at revision ${t.revision}` : '' }}</FactTag
          >
          <TextBox
            v-if="may"
            lazy
            :model-value="t.name"
            maxlength="80"
            aria-label="Name of the test"
            style="width: 210px"
            @update:model-value="(n: string) => n.trim() && n.trim() !== t.name && patch(t.id, { name: n.trim() }, `Renamed a test to ‘${n.trim()}’`)"
          />
          <b v-else>{{ t.name }}</b>
          <NSelect
            :value="t.clauses"
            multiple
            size="small"
            :options="clauses"
            :disabled="!may || !clauses.length"
            placeholder="proves no clause"
            :aria-label="`Clauses that ‘${t.name}’ proves`"
            class="proves"
            @update:value="(ids: string[]) => patch(t.id, { clauses: ids }, `Said which clauses ‘${t.name}’ proves`)"
          />
          <PickOne
            :model-value="t.on"
            size="small"
            :options="grounds"
            :disabled="!may"
            :aria-label="`What ‘${t.name}’ is lived on`"
            style="width: 160px"
            @update:model-value="(on: View['on']) => patch(t.id, { on }, `‘${t.name}’ is lived ${grounds.find((g) => g.value === on)!.label}`)"
          />
          <span class="space" />
          <NButton v-if="store.may('technician')" size="small" :loading="running" :aria-label="`Run ‘${t.name}’`" @click="run([t.id])">Run</NButton>
          <NButton v-if="t.proof" size="small" :aria-expanded="unfolded === t.id" @click="unfolded = unfolded === t.id ? null : t.id">{{
            unfolded === t.id ? 'Fold' : 'How it went'
          }}</NButton>
          <NButton v-if="may" size="small" quaternary :aria-label="`Remove ‘${t.name}’`" @click="remove(t)">Remove</NButton>
        </div>
        <TextBox
          type="textarea"
          lazy
          mono
          :model-value="typed[t.id]?.text ?? t.text"
          :disabled="!may"
          maxlength="20000"
          spellcheck="false"
          :rows="Math.min(14, Math.max(3, t.text.split('\n').length))"
          :aria-label="`Steps of ‘${t.name}’`"
          @update:model-value="(text: string) => text !== t.text && rewrite(t, text)"
        />
        <p v-if="may" class="acts">
          <NButton size="small" :aria-expanded="choosing === t.id" @click="choosing = choosing === t.id ? null : t.id">Add a step by choosing…</NButton>
        </p>
        <StepForm
          v-if="choosing === t.id && view"
          :forms="view.forms"
          :subjects="view.subjects"
          @add="(line) => rewrite(t, [typed[t.id]?.text ?? t.text, line].filter(Boolean).join('\n'))"
        />
        <p v-for="p in typed[t.id]?.problems ?? []" :key="p.line" class="wrong">
          Line {{ p.line }}, character {{ p.at + 1 }}: {{ p.sentence }} <span class="dim">Nothing is saved until all lines can be read.</span>
        </p>
        <TestProof v-if="unfolded === t.id && t.proof" :proof="t.proof" :name="t.name" />
      </li>
    </ol>
    <BreakingList v-if="shown.length && store.may('technician')" :key="sequence.id" :sequence-id="sequence.id" :say="say" @show="(ids) => emit('show', ids)" />
  </section>
</template>

<style scoped>
.tests,
.tests > ol,
.tests > ol > li {
  display: grid;
  gap: 8px;
}
.tests > ol > li {
  border-top: 1px solid var(--rule);
  padding-top: 8px;
}
ol {
  margin: 0;
  padding: 0;
  list-style: none;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.proves {
  width: 150px;
}
</style>
