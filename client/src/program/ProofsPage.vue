<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { many } from '../shared/numbers'
import { useStore } from '../shared/store'
import { useJob } from '../shared/useJob'
import type { Tone } from '../shared/ui/FactTag.vue'
import type { Action, Column } from '../shared/ui/records'

/** The tests of all sequences, and the stories of bus devices that say what must come of them: what is proven of what the specification asks, and what nobody asked for. */
type Line = Schemas['ProofLine']
const store = useStore()
const router = useRouter()
const { value: proofs, problem, reload } = useShown('/proofs', () => ({}), ['sequence', 'point', 'schedule', 'equipment', 'story', 'busDevice', 'groupAddress'])
const { job, start } = useJob(() => void reload())
const chosen = ref<string | null>(null)
const sum = (of: (l: Line) => number) => (proofs.value ?? []).reduce((s, l) => s + of(l), 0)
const tests = computed(() => sum((l) => l.tests))
const passed = computed(() => sum((l) => l.passed))
const failed = computed(() => sum((l) => l.failed))
const left = computed(() => sum((l) => l.notRun + l.stale))
const run = (sequences: string[], onlyChanged: boolean) => start(() => post('/proofs', { body: { sequences, onlyChanged } }))
const page = (l: Line) => (l.toldTo ? (l.toRoom ? `/plan/${l.toldTo}` : `/wire/bus/${l.toldTo}?lens=story`) : `/program/${l.id}`)
const stands = (l: Line): [Tone | undefined, string] =>
  l.failed
    ? ['crimson', `✕ ${l.failed} failed`]
    : l.stale
      ? ['amber', `◇ ${l.stale} to run again`]
      : !l.tests
        ? ['amber', '▲ no test']
        : l.notRun
          ? [undefined, `○ ${l.notRun} not run`]
          : ['moss', `✓ ${l.passed} passed`]
const columns: Column<Line>[] = [
  { key: 'name', title: 'Sequence or story', sort: (l) => l.name },
  { key: 'state', title: 'How they stand', width: 170, sort: (l) => l.failed * 1000 + l.stale * 100 + l.notRun },
  { key: 'count', title: 'Tests', width: 84, sort: (l) => l.tests },
  { key: 'clauses', title: 'Clauses proven', width: 140, sort: (l) => l.proven / Math.max(1, l.clauses) },
  { key: 'unasked', title: 'Nobody asked for', sort: (l) => l.unasked.length },
]
const actions = computed<Action<Line>[]>(() => [
  { label: 'Open', run: ([l]) => router.push(page(l!)) },
  ...(store.may('technician')
    ? [
        {
          label: 'Run them',
          run: (rows: Line[]) =>
            void run(
              rows.map((l) => l.id),
              false,
            ),
          many: true,
        },
      ]
    : []),
])
</script>

<template>
  <PageShell
    :problem="problem"
    lede="Every test of the project: run on a bench of its own, thousands of times faster than the building would allow."
    @again="reload"
  >
    <template v-if="proofs" #facts>
      <FactTag :tone="failed ? 'crimson' : passed === tests && tests ? 'moss' : undefined">{{ passed }} of {{ tests }} passed</FactTag>
      <FactTag v-if="failed" tone="crimson">✕ {{ many(failed, 'failure') }}</FactTag>
      <FactTag>{{ sum((l) => l.proven) }} of {{ sum((l) => l.clauses) }} clauses proven</FactTag>
    </template>
    <template v-if="store.may('technician')" #actions>
      <NButton v-if="left && left < tests" id="run-changed" size="small" :disabled="job?.state === 'running'" @click="run([], true)"
        >Run the {{ left }} that changed</NButton
      >
      <NButton id="run-proofs" type="primary" size="small" :disabled="!tests || job?.state === 'running'" @click="run([], false)">Run all</NButton>
    </template>
    <JobProgress v-if="job && job.state !== 'done'" :job="job" />
    <EmptyState v-if="proofs && !proofs.length" title="Nothing to prove yet">
      Write the paragraphs of the specification as clauses of a sequence, and tests that prove them: both stand below its diagram.
    </EmptyState>
    <RecordTable
      v-else-if="proofs"
      v-model:chosen="chosen"
      :rows="proofs"
      :columns="columns"
      :id="(l) => l.id"
      noun="sequence or story"
      plural="sequences and stories"
      :words="(l) => `${l.name} ${l.path} ${stands(l)[1]}`"
      :page="page"
      :actions="actions"
    >
      <template #name="{ row: l }"
        ><RouterLink :to="page(l)"
          ><b>{{ l.name }}</b></RouterLink
        ><br /><span class="dim tiny">{{ l.toldTo ? 'story of ' : '' }}{{ l.path }}</span></template
      >
      <template #state="{ row: l }"
        ><FactTag :tone="stands(l)[0]">{{ stands(l)[1] }}</FactTag></template
      >
      <template #count="{ row: l }"
        ><span class="mono">{{ l.tests }}</span></template
      >
      <template #clauses="{ row: l }"
        ><span v-if="!l.clauses" class="dim">{{ l.toldTo ? '–' : 'none written' }}</span
        ><FactTag v-else :tone="l.proven === l.clauses ? 'moss' : 'amber'"
          >{{ l.proven === l.clauses ? '✓' : '▲' }} {{ l.proven }} of {{ l.clauses }}</FactTag
        ></template
      >
      <template #unasked="{ row: l }"
        ><span v-if="l.clauses && l.unasked.length" class="tiny">▲ {{ l.unasked.join(', ') }}</span></template
      >
    </RecordTable>
  </PageShell>
</template>
