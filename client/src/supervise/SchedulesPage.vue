<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useShown } from '../shared/api/cache'
import type { Schemas } from '../shared/api/http'
import { change, newId, put } from '../shared/api/records'
import { count, many } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Action, Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'

type Line = Schemas['ScheduleLine']
const store = useStore()
const route = useRoute()
const router = useRouter()
const attempt = useDo()
const {
  value: schedules,
  problem,
  reload,
} = useShown(
  '/schedules',
  () => ({}),
  ['schedule', 'place', 'point', 'sequence'],
  () => Math.floor((store.clock?.now ?? 0) / 900000),
)
const adding = ref(false)
const removing = ref<string[] | null>(null)
const name = ref('')
const states = ref('closed · open')
watch(
  () => route.query.add,
  (a) => a && (adding.value = true),
  { immediate: true },
)
async function add() {
  const id = newId('sch')
  const stateTexts = states.value.split(/\s*[·/|;,]\s*/).filter(Boolean)
  const isTwo = stateTexts.length === 2
  const record = {
    id,
    name: name.value.trim(),
    placeId: store.project!.siteId!,
    kind: isTwo ? 'binary' : 'multistate',
    stateTexts,
    default: isTwo ? 0 : 1,
    week: [],
    exceptions: [],
    drives: [],
  }
  if (await attempt(() => change([put('schedule', record, 0)]))) await router.push(`/supervise/schedules/${id}`)
}
const page = (l: Line) => `/supervise/schedules/${l.id}`
const columns: Column<Line>[] = [
  { key: 'name', title: 'Schedule', sort: (l) => l.name },
  { key: 'week', title: 'This week', width: 272 },
  { key: 'now', title: 'Now', width: 150, sort: (l) => l.says },
  { key: 'outputs', title: 'Drives' },
  { key: 'findings', title: 'Check', width: 70, sort: (l) => l.findings },
]
const actions = computed<Action<Line>[]>(() => [
  { label: 'Open', run: ([l]) => router.push(page(l!)) },
  { label: 'Dossier', run: ([l]) => (store.selected = l!.id) },
  ...(store.may('engineer') ? [{ label: 'Remove…', run: (rows: Line[]) => (removing.value = rows.map((l) => l.id)), many: true, key: 'Delete' }] : []),
])
</script>

<template>
  <PageShell :problem="problem" @again="reload">
    <template v-if="schedules" #facts
      ><FactTag>{{ count(schedules.length) }}</FactTag></template
    >
    <template #actions><NButton v-if="store.may('engineer')" id="add-schedule" type="primary" @click="adding = true">Add a schedule…</NButton></template>
    <EmptyState v-if="schedules && !schedules.length" title="No schedule yet">
      A schedule says when a place is open, and drives outputs at a priority. It also works when the network is down: each controller has its own copy.
      <template v-if="store.may('engineer')" #next><NButton type="primary" @click="adding = true">Add a schedule…</NButton></template>
    </EmptyState>
    <RecordTable
      v-else-if="schedules"
      :rows="schedules"
      :columns="columns"
      :id="(l) => l.id"
      noun="schedule"
      plural="schedules"
      :words="(l) => `${l.name} ${l.path}`"
      :page="page"
      :actions="actions"
    >
      <template #name="{ row: l }"
        ><RouterLink :to="page(l)"
          ><b>{{ l.name }}</b></RouterLink
        ><br /><span class="dim tiny">{{ l.path }}</span></template
      >
      <template #week="{ row: l }"><WeekRibbon :days="l.week" :today="l.today" /></template>
      <template #now="{ row: l }"
        ><FactTag tone="plum">{{ l.says }}</FactTag> <span class="dim tiny">until {{ l.until }}</span></template
      >
      <template #outputs="{ row: l }"
        ><span v-if="l.drives" :title="l.outputs.join('\n')">{{ l.outputs[0] }}{{ l.drives > 1 ? ` and ${count(l.drives - 1)} more` : '' }}</span
        ><FactTag v-else tone="amber">▲ nothing</FactTag></template
      >
      <template #findings="{ row: l }"
        ><span :class="{ wrong: l.findings }">{{ l.findings ? `▲ ${l.findings}` : '✓' }}</span></template
      >
      <template #details="{ row: l }">
        <h2>{{ l.name }}</h2>
        <p class="dim">{{ l.path }} · {{ many(l.exceptions, 'exception') }}</p>
        <p v-for="(d, i) in l.week" :key="d.day" class="day" :class="{ on: i === l.today }">
          <span>{{ d.day }}</span><span
            >{{ d.stretches.map((s) => s.says).join(', ') || '–' }} <b v-if="d.exception">{{ d.exception }}</b></span
          >
        </p>
        <h3>Drives {{ many(l.drives, 'output') }}</h3>
        <p v-for="o in l.outputs" :key="o">{{ o }}</p>
        <p v-if="l.drives > l.outputs.length" class="dim">and {{ count(l.drives - l.outputs.length) }} more</p>
        <p class="acts"><LinkButton main :to="page(l)">Open</LinkButton></p>
      </template>
    </RecordTable>
    <NSkeleton v-else text :repeat="5" />
    <ModalBox v-if="adding" label="Add a schedule" @close="adding = false">
      <form @submit.prevent="add">
        <h2>Add a schedule</h2>
        <label class="row"><span>Name</span><TextBox id="sch-name" v-model="name" required autofocus placeholder="Opening hours" /></label>
        <label class="row"><span>States</span><TextBox v-model="states" required /></label>
        <p class="dim">The first state holds outside all hours.</p>
        <p class="acts"><NButton id="sch-add" type="primary" attr-type="submit">Add it</NButton><NButton @click="adding = false">Leave</NButton></p>
      </form>
    </ModalBox>
    <ConfirmRemoval v-if="removing" :ids="removing" @close="removing = null" />
  </PageShell>
</template>

<style scoped>
.day {
  display: grid;
  grid-template-columns: 44px 1fr;
  padding: 1px 4px;
}
.day.on {
  background: var(--plum-soft);
  border-radius: 5px;
}
</style>
