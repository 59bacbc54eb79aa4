<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { count, when } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Action, Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'
import DailyCopies from './DailyCopies.vue'

/** The projects of the installation: make, open, copy, archive. */
type Line = Schemas['ProjectLine']
const store = useStore()
const attempt = useDo()
const { value: projects, reload } = useShown('/projects', () => ({}), [])
const may = computed(() => store.may('engineer'))
const rows = computed(() => [...(projects.value ?? [])].sort((a, b) => Number(a.isArchived) - Number(b.isArchived)))
const asking = ref<{ name: string; of: Line | null; renames?: boolean } | null>(null)
async function answer() {
  const { name, of, renames } = asking.value!
  const done = renames
    ? await attempt(() => post('/projects/{id}/name', { path: { id: of!.id }, body: { name } }), 'Renamed')
    : await attempt(
        async () => {
          const made = await post('/projects', { body: { name, copyOf: of?.id ?? null } })
          if (!of) location.href = made.address
        },
        of ? `Copied; ${name} is in the list` : undefined,
      )
  if (done) asking.value = null
  await reload()
}
async function archive(p: Line) {
  await attempt(() => post('/projects/{id}/archive', { path: { id: p.id } }), `${p.name} is archived; it is kept whole and can be brought back`)
  if (p.isThis) location.href = '/projects'
  await reload()
}
async function bringBack(p: Line) {
  await attempt(() => post('/projects/{id}/restore', { path: { id: p.id } }), `${p.name} is back`)
  await reload()
}
const copyOf = (of: Line) => (asking.value = { name: `${of.name} copy`, of })
const columns: Column<Line>[] = [
  { key: 'name', title: 'Project', sort: (p) => p.name },
  { key: 'site', title: 'Site', sort: (p) => p.siteName ?? '' },
  { key: 'records', title: 'Records', width: 90, isNumber: true, sort: (p) => p.records ?? 0 },
  { key: 'revision', title: 'Revision', width: 90, isNumber: true, sort: (p) => p.revision ?? 0 },
  { key: 'findings', title: 'Findings', width: 90, isNumber: true, sort: (p) => p.findings ?? 0 },
]
const actions: Action<Line>[] = [
  { label: 'Open', run: ([p]) => (location.href = p!.address), when: (p) => !p.isThis && !p.isArchived },
  { label: 'Copy…', run: ([p]) => copyOf(p!), when: (p) => may.value && !p.isArchived },
  { label: 'Rename…', run: ([p]) => (asking.value = { name: p!.name, of: p!, renames: true }), when: (p) => may.value && p.id !== 'main' && !p.isArchived },
  { label: 'Archive', run: ([p]) => archive(p!), when: (p) => may.value && p.id !== 'main' && !p.isArchived },
  { label: 'Bring back', run: ([p]) => bringBack(p!), when: (p) => may.value && p.isArchived },
]
</script>

<template>
  <PageShell lede="of this installation; each with its own history, site and address">
    <template #actions><NButton v-if="may" id="make-project" type="primary" @click="asking = { name: '', of: null }">Make a project…</NButton></template>
    <RecordTable v-if="projects" :rows="rows" :columns="columns" :id="(p) => p.id" noun="project" plural="projects" :words="(p) => p.name" :actions="actions">
      <template #name="{ row: p }"
        ><b>{{ p.name }}</b> <FactTag v-if="p.isThis" tone="moss">● this one</FactTag> <FactTag v-if="p.isArchived">archived</FactTag></template
      >
      <template #site="{ row: p }">{{ p.siteName ?? (p.isOpen ? 'no site yet' : '–') }}</template>
      <template v-for="key in ['records', 'revision', 'findings'] as const" :key="key" #[key]="{ row: p }">{{ p[key] == null ? '–' : count(p[key]) }}</template>
      <template #details="{ row: p }">
        <h2>{{ p.name }}</h2>
        <p class="dim">
          {{ p.madeAt ? `made ${when(p.madeAt)} by ${p.madeBy}` : 'came with the installation' }}{{ p.copyOf ? `, a copy of ${p.copyOf}` : '' }}
        </p>
        <p v-if="p.records == null" class="dim">Its records, revision and findings are known once somebody has opened it since the server started.</p>
        <p class="acts">
          <LinkButton v-if="!p.isThis && !p.isArchived" main :href="p.address" open>Open</LinkButton>
          <NButton v-if="may && !p.isArchived" data-act="copy" @click="copyOf(p)">Copy…</NButton>
          <NButton v-if="may && p.isArchived" @click="bringBack(p)">Bring back</NButton>
        </p>
      </template>
    </RecordTable>
    <DailyCopies v-if="may" />
    <ModalBox v-if="asking" label="A project" @close="asking = null">
      <form class="box" @submit.prevent="answer">
        <h2>{{ asking.renames ? 'Rename' : asking.of ? `Copy ‘${asking.of.name}’` : 'Make a project' }}</h2>
        <p v-if="!asking.renames" class="dim">
          {{
            asking.of
              ? 'The copy has the whole design with its history and snapshots. Its site is new: nothing is installed on it yet. Libraries and accounts are shared.'
              : 'It begins empty, with a history and a virtual site of its own. Libraries and accounts are shared.'
          }}
        </p>
        <label class="row"><span>Name</span><TextBox id="project-name" v-model="asking.name" required maxlength="80" autofocus /></label>
        <p class="acts">
          <NButton type="primary" attr-type="submit">{{ asking.renames ? 'Rename' : asking.of ? 'Copy it' : 'Make and open it' }}</NButton><NButton
            @click="asking = null"
            >Leave</NButton
          >
        </p>
      </form>
    </ModalBox>
  </PageShell>
</template>

<style scoped>
.box {
  display: grid;
  gap: 8px;
}
</style>
