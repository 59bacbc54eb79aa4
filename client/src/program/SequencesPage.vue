<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useShown } from '../shared/api/cache'
import type { Schemas } from '../shared/api/http'
import { change, newId, put } from '../shared/api/records'
import { count, many } from '../shared/numbers'
import { useLive, useStore } from '../shared/store'
import type { Tone } from '../shared/ui/FactTag.vue'
import type { Action, Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'

type Line = Schemas['SequenceLine']
const store = useStore()
const route = useRoute()
const router = useRouter()
const attempt = useDo()
const { value: sequences, problem, reload } = useShown('/sequences', () => ({}), 'all')
const adding = ref(false)
const removing = ref<string[] | null>(null)
const name = ref('')
const of = ref('')
const on = ref('')
watch(
  () => route.query.add,
  (a) => a && (adding.value = true),
  { immediate: true },
)
async function add() {
  const id = newId('seq')
  const record = { id, name: name.value.trim(), equipmentId: of.value, controllerId: on.value || null, scanSeconds: 1, blocks: [], commands: [] }
  const done = await attempt(() => {
    if (!of.value)
      throw new Error(
        'Choose the equipment from the list that comes up while you type its name. If there is none, add it under Plan first: a sequence is the logic of one piece of equipment.',
      )
    return change([put('sequence', record, 0)])
  })
  if (done) await router.push(`/program/${id}`)
}
const states: Record<Schemas['SequenceState'], [Tone, string]> = {
  runs: ['moss', '● runs as designed'],
  ahead: ['amber', '▲ design is ahead'],
  notSent: ['amber', '○ not sent yet'],
  homeless: ['crimson', '✕ no controller'],
}
const chosen = ref<string | null>(null)
const shown = computed(() => sequences.value?.find((s) => s.id === chosen.value))
useLive(() => (shown.value?.outputs ?? []).map((o) => `p:${o.pointId}`))
const page = (s: Line) => `/program/${s.id}`
const columns: Column<Line>[] = [
  { key: 'name', title: 'Sequence', sort: (s) => s.name },
  { key: 'state', title: 'On the site', width: 168, sort: (s) => s.state },
  { key: 'controller', title: 'Runs on', width: 96, sort: (s) => s.controller ?? '' },
  { key: 'clauses', title: 'Clauses met', width: 124, sort: (s) => s.met / Math.max(1, s.clauses) },
  { key: 'load', title: 'Blocks, scan', width: 128, sort: (s) => s.blocks / s.scanSeconds },
  { key: 'findings', title: 'Check', width: 70, sort: (s) => s.findings },
]
const actions = computed<Action<Line>[]>(() => [
  { label: 'Open', run: ([s]) => router.push(page(s!)) },
  { label: 'Dossier', run: ([s]) => (store.selected = s!.id) },
  ...(store.may('engineer') ? [{ label: 'Remove…', run: (rows: Line[]) => (removing.value = rows.map((s) => s.id)), many: true, key: 'Delete' }] : []),
])
</script>

<template>
  <PageShell :problem="problem" @again="reload">
    <template v-if="sequences" #facts
      ><FactTag>{{ count(sequences.length) }}</FactTag></template
    >
    <template #actions><NButton v-if="store.may('engineer')" id="add-sequence" type="primary" @click="adding = true">Add a sequence…</NButton></template>
    <EmptyState v-if="sequences && !sequences.length" title="No sequence yet">
      A sequence is the logic of one piece of equipment: what it reads, how it decides, what it commands.
      <template v-if="store.may('engineer')" #next><NButton type="primary" @click="adding = true">Add a sequence…</NButton></template>
    </EmptyState>
    <RecordTable
      v-else-if="sequences"
      v-model:chosen="chosen"
      :rows="sequences"
      :columns="columns"
      :id="(s) => s.id"
      noun="sequence"
      plural="sequences"
      :words="(s) => `${s.name} ${s.path} ${s.controller ?? ''}`"
      :page="page"
      :actions="actions"
    >
      <template #name="{ row: s }"
        ><RouterLink :to="page(s)"
          ><b>{{ s.name }}</b></RouterLink
        ><br /><span class="dim tiny">{{ s.path }}</span></template
      >
      <template #state="{ row: s }"
        ><FactTag :tone="states[s.state as Schemas['SequenceState']][0]">{{ states[s.state as Schemas['SequenceState']][1] }}</FactTag></template
      >
      <template #controller="{ row: s }"
        ><span class="mono">{{ s.controller ?? '–' }}</span></template
      >
      <template #clauses="{ row: s }"
        ><span v-if="!s.clauses" class="dim">none written</span
        ><FactTag v-else :tone="s.met === s.clauses ? 'moss' : 'amber'">{{ s.met === s.clauses ? '✓' : '▲' }} {{ s.met }} of {{ s.clauses }}</FactTag></template
      >
      <template #load="{ row: s }"
        ><span class="mono">{{ s.blocks }}, {{ s.scanSeconds }} s</span></template
      >
      <template #findings="{ row: s }"
        ><span :class="{ wrong: s.findings }">{{ s.findings ? `▲ ${s.findings}` : '✓' }}</span></template
      >
      <template #details="{ row: s }">
        <h2>{{ s.name }}</h2>
        <p class="dim">{{ s.path }} · {{ s.equipment }}</p>
        <p>
          {{ many(s.blocks, 'block') }}, scanned every {{ s.scanSeconds }} s on <b class="mono">{{ s.controller ?? 'no controller' }}</b>.
        </p>
        <h3>Commands</h3>
        <p v-for="o in s.outputs" :key="o.pointId" class="output">
          <NButton text type="info" @click="store.selected = o.pointId">{{ o.name }}</NButton><LiveValue :id="`p:${o.pointId}`" />
        </p>
        <p v-if="!s.outputs.length" class="dim">Nothing yet.</p>
        <p v-else-if="s.commands > s.outputs.length" class="dim">and {{ count(s.commands - s.outputs.length) }} more</p>
        <p class="acts"><LinkButton main :to="page(s)">Open</LinkButton></p>
      </template>
    </RecordTable>
    <NSkeleton v-else text :repeat="5" />
    <ModalBox v-if="adding" label="Add a sequence" @close="adding = false">
      <form @submit.prevent="add">
        <h2>Add a sequence</h2>
        <label class="row"><span>Name</span><TextBox id="seq-name" v-model="name" required autofocus placeholder="Kiln room extract" /></label>
        <label class="row"
          ><span>Of equipment</span
          ><RecordPicker
            id="seq-of"
            nouns="equipment"
            placeholder="words of equipment or its room"
            aria-label="Of equipment"
            @choose="(hit) => (of = hit?.id ?? '')"
        /></label>
        <label class="row"
          ><span>Runs on</span
          ><RecordPicker
            id="seq-controller"
            nouns="controller"
            placeholder="words of a controller; may be chosen later"
            aria-label="Runs on"
            @choose="(hit) => (on = hit?.id ?? '')"
        /></label>
        <p class="acts"><NButton id="seq-add" type="primary" attr-type="submit">Add it</NButton><NButton @click="adding = false">Leave</NButton></p>
      </form>
    </ModalBox>
    <ConfirmRemoval v-if="removing" :ids="removing" @close="removing = null" />
  </PageShell>
</template>

<style scoped>
.output {
  display: flex;
  justify-content: space-between;
  gap: 8px;
}
</style>
