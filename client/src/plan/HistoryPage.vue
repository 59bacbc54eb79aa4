<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { get, post, type Schemas } from '../shared/api/http'
import { count, when } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Action, Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'
import DifferencesPane from './DifferencesPane.vue'
import ProjectFileBox from './ProjectFileBox.vue'

type Edit = Schemas['HistoryLine']
type Snapshot = Schemas['Snapshot']
type Backup = Schemas['BackupLine']
const store = useStore()
const attempt = useDo()
const may = computed(() => store.may('engineer'))
const views = ['edits', 'snapshots', 'backups', 'projects'] as const
const view = ref<(typeof views)[number]>('edits')
const { value: newest } = useShown('/history', () => ({}), 'all')
const older = ref<Edit[]>([])
const edits = computed(() => [...(newest.value ?? []), ...older.value.filter((l) => l.revision < (newest.value?.at(-1)?.revision ?? 0))])
const hasMore = computed(() => (edits.value.at(-1)?.revision ?? 1) > 1)
const earlier = () => attempt(async () => (older.value = [...older.value, ...(await get('/history', { query: { below: edits.value.at(-1)!.revision } }))]))
const { value: snapshots, reload: reloadSnapshots } = useShown('/snapshots', () => (view.value === 'snapshots' ? {} : null), 'all')
const { value: backups, reload: reloadBackups } = useShown('/backups', () => (view.value === 'backups' ? {} : null), 'all')
const { value: projects } = useShown('/projects', () => (view.value === 'projects' ? {} : null), [])
const others = computed(() => (projects.value ?? []).filter((p) => !p.isThis && !p.isArchived))
const chosen = ref<string | null>(null)
/** The two states that are compared: an edit with what was before it, a snapshot with now. */
const range = computed(() => {
  const at = Number(chosen.value)
  if (!chosen.value) return null
  if (view.value === 'edits') return { from: at - 1, to: at }
  const snapshot = snapshots.value?.find((s) => s.id === at)
  return view.value === 'snapshots' && snapshot ? { from: snapshot.revision } : null
})
const { value: past } = useShown('/differences', () => (range.value ? { query: range.value } : null), 'all')
const { value: beside } = useShown(
  '/projects/{id}/differences',
  () => (view.value === 'projects' && chosen.value ? { path: { id: chosen.value } } : null),
  'all',
)
const list = computed(() => `/differences/list?${new URLSearchParams(Object.entries(range.value ?? {}).map(([k, v]) => [k, String(v)]))}`)
const naming = ref('')
async function snapshot() {
  if (await attempt(() => post('/snapshots', { body: { name: naming.value } }), 'Snapshot named')) naming.value = ''
  await reloadSnapshots()
}
const takeBack = (l: Edit) => attempt(() => post('/history/{revision}/undo', { path: { revision: l.revision } }), `Taken back: ${l.label}`)
const restore = (revision: number) =>
  attempt(() => post('/restore/{revision}', { path: { revision } }), `Restored revision ${revision}; nothing after it is lost, it can be undone`)
const restoreBackup = (b: Backup) =>
  attempt(
    () => post('/backups/{id}/restore', { path: { id: b.number as never } }),
    `Restored revision ${b.revision} from its backup; undo brings back what was`,
  )
async function backUp() {
  await attempt(() => post('/backups'), 'Backed up and checked')
  await reloadBackups()
}
const editColumns: Column<Edit>[] = [
  { key: 'revision', title: 'Revision', width: 86, isNumber: true },
  { key: 'label', title: 'What' },
  { key: 'author', title: 'Who', width: 110 },
  { key: 'at', title: 'When', width: 148 },
]
const snapshotColumns: Column<Snapshot>[] = [
  { key: 'name', title: 'Snapshot', sort: (s) => s.name },
  { key: 'revision', title: 'Revision', width: 90, isNumber: true, sort: (s) => s.revision },
  { key: 'author', title: 'Made by', width: 120 },
  { key: 'at', title: 'When', width: 148, sort: (s) => s.atMilliseconds },
]
const backupColumns: Column<Backup>[] = [
  { key: 'revision', title: 'Revision', width: 90, isNumber: true, sort: (b) => b.revision },
  { key: 'at', title: 'Written and checked', sort: (b) => b.at },
  { key: 'bytes', title: 'Size', width: 110, isNumber: true, sort: (b) => b.bytes },
]
const projectColumns: Column<Schemas['ProjectLine']>[] = [
  { key: 'name', title: 'Project', sort: (p) => p.name },
  { key: 'copyOf', title: 'Copy of' },
  { key: 'revision', title: 'Revision', width: 90, isNumber: true },
]
const editActions: Action<Edit>[] = [{ label: 'Take this edit back', run: ([l]) => takeBack(l!), when: () => may.value }]
const heads = { edits: 'Edits', snapshots: 'Snapshots', backups: 'Backups', projects: 'Other projects' }
const options = views.map((value) => ({ value, label: heads[value] }))
</script>

<template>
  <PageShell>
    <template #facts><ChooseOne v-model="view" :options="options" label="What of the past" @update:model-value="chosen = null" /></template>
    <template #actions><ProjectFileBox /></template>
    <RecordTable
      v-if="view === 'edits' && newest"
      v-model:chosen="chosen"
      :rows="edits"
      :columns="editColumns"
      :id="(l) => String(l.revision)"
      noun="edit"
      plural="edits"
      :words="(l) => `${l.label} ${l.author}`"
      :actions="editActions"
    >
      <template #at="{ row }"
        ><span class="dim">{{ when(row.at) }}</span></template
      >
      <template #details="{ row }">
        <h2>{{ row.label }}</h2>
        <p class="dim">{{ row.author }}, {{ when(row.at) }} · made revision {{ row.revision }}</p>
        <DifferencesPane v-if="past?.to === row.revision" :difference="past" :list="list" />
        <p v-if="may" class="acts">
          <NButton @click="takeBack(row)">Take this edit back</NButton><span class="dim tiny">done where nothing later rests on it; undo brings it again</span>
        </p>
      </template>
      <template #tools><NButton v-if="hasMore" size="small" @click="earlier">Earlier ones</NButton></template>
    </RecordTable>
    <template v-else-if="view === 'snapshots' && snapshots">
      <form v-if="may" class="acts" @submit.prevent="snapshot">
        <TextBox
          id="snapshot"
          v-model="naming"
          style="width: 300px"
          placeholder="name the present state"
          aria-label="Name of a snapshot"
          maxlength="120"
          required
        /><NButton attr-type="submit">Name it</NButton>
      </form>
      <EmptyState v-if="!snapshots.length" title="No snapshot yet">
        One is made by itself before large edits and at the start of each day. Name the present state to come back to it.
      </EmptyState>
      <RecordTable
        v-else
        v-model:chosen="chosen"
        :rows="snapshots"
        :columns="snapshotColumns"
        :id="(s) => String(s.id)"
        noun="snapshot"
        plural="snapshots"
        :words="(s) => s.name"
      >
        <template #name="{ row }"
          ><b>{{ row.name }}</b></template
        >
        <template #author="{ row }">{{ row.automatic ? 'by itself' : row.author }}</template>
        <template #at="{ row }"
          ><span class="dim">{{ when(row.atMilliseconds) }}</span></template
        >
        <template #details="{ row }">
          <h2>{{ row.name }} against now</h2>
          <DifferencesPane v-if="past?.from === row.revision" :difference="past" :list="list" />
          <p v-if="may && past?.records.length" class="acts">
            <NButton id="restore-do" type="primary" @click="restore(row.revision)">Take all of this back</NButton
            ><span class="dim tiny">one change, which can be undone</span>
          </p>
        </template>
      </RecordTable>
    </template>
    <template v-else-if="view === 'backups' && backups">
      <p v-if="backups.problem" class="bar high">▲ {{ backups.problem }}</p>
      <p class="acts">
        <NButton v-if="may" @click="backUp">Back up now</NButton>
        <span class="dim"
          >Every {{ backups.everyMinutes }} min while something is written, and before risky edits; the newest {{ backups.kept }} stay. If the database itself
          is damaged, start the server with <kbd>--restore</kbd>.</span
        >
      </p>
      <RecordTable v-model:chosen="chosen" :rows="backups.backups" :columns="backupColumns" :id="(b) => String(b.number)" noun="backup" plural="backups">
        <template #at="{ row }">{{ when(row.at) }}</template>
        <template #bytes="{ row }">{{ count(Math.ceil(row.bytes / 1024)) }} kB</template>
        <template #details="{ row }">
          <h2>Backup of revision {{ row.revision }}</h2>
          <p class="dim">Written {{ when(row.at) }} and read back whole.</p>
          <p v-if="may" class="acts">
            <NButton @click="restoreBackup(row)">Restore it</NButton><span class="dim tiny">as one change, which can be undone</span>
          </p>
        </template>
      </RecordTable>
    </template>
    <template v-else-if="view === 'projects' && projects">
      <EmptyState v-if="!others.length" title="No other project">A copy of this one, or another, can be laid beside it once there is one.</EmptyState>
      <RecordTable v-else v-model:chosen="chosen" :rows="others" :columns="projectColumns" :id="(p) => p.id" noun="project" plural="projects">
        <template #details="{ row }">
          <h2>{{ row.name }} against this project</h2>
          <DifferencesPane v-if="beside" :difference="beside" :list="`/projects/${row.id}/differences/list`" />
        </template>
      </RecordTable>
    </template>
    <NSkeleton v-else text :repeat="5" />
  </PageShell>
</template>

<style scoped>
@media print {
  :deep(.list) {
    display: none;
  }
  :deep(.details) {
    max-height: none;
    position: static;
  }
}
</style>
