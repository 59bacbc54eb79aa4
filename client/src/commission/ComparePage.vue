<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { many, siteTime } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Action, Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'
import OrphanList from './OrphanList.vue'

/** What every controller runs against the design, read back on time or now; since when it has drifted; and what is left over. */
type Line = Schemas['ComparisonLine']
const store = useStore()
const router = useRouter()
const attempt = useDo()
const zone = computed(() => store.project?.timeZone ?? 'UTC')
const { value: list, problem, reload } = useShown('/comparisons', () => ({}), 'all')
const jobId = ref('')
const job = computed(() => store.jobs.get(jobId.value))
const chosen = ref<string | null>(null)
const { value: past } = useShown('/comparisons/{id}', () => (chosen.value ? { path: { id: chosen.value } } : null), ['jobs'])
const drifted = computed(() => list.value?.lines.filter((l) => l.last && l.last.changes > 0).length ?? 0)
const columns: Column<Line>[] = [
  { key: 'name', title: 'Controller', sort: (l) => l.name },
  { key: 'state', title: 'At its last comparison', width: 230, sort: (l) => l.last?.changes ?? -2 },
  { key: 'at', title: 'Compared', width: 190, sort: (l) => l.last?.at ?? 0 },
]
const compare = (rows: Line[]) =>
  attempt(async () => {
    const started = await post('/comparisons', { body: { hosts: rows.map((r) => r.hostId) } })
    if (!store.jobs.has(started.id)) store.jobs.set(started.id, started)
    jobId.value = started.id
  })
async function every(hours: number | null) {
  if (
    hours !== null &&
    (await attempt(() => post('/comparisons/hours', { body: { hours } }), hours ? `Compared every ${hours} h` : 'Not compared by themselves'))
  )
    await reload()
}
const page = (l: Line) => `/commission/${l.hostId}`
const actions: Action<Line>[] = [
  { label: 'Compare now', run: compare, many: true, when: () => store.may('technician') },
  { label: 'Read back, take over or send', run: ([l]) => router.push(page(l!)) },
  { label: 'Dossier', run: ([l]) => (store.selected = l!.hostId) },
]
</script>

<template>
  <PageShell :problem="problem" @again="reload">
    <template v-if="list" #facts
      ><FactTag :tone="drifted ? 'amber' : 'moss'">{{ drifted ? `▲ ${many(drifted, 'controller')} drifted` : '✓ none drifted' }}</FactTag></template
    >
    <template v-if="list && store.may('technician')" #actions>
      <label class="every"
        >by itself every
        <NumberBox :model-value="list.hours" unit="h" :width="84" aria-label="Compared every so many hours of site time, 0 for never" @change="every"
      /></label>
      <NButton id="compare-all" type="primary" :disabled="!list.lines.length || job?.state === 'running'" @click="compare([])">Compare all now</NButton>
    </template>
    <JobProgress v-if="job" :job="job" />
    <EmptyState v-if="list && !list.lines.length" title="Nothing to compare yet">
      Controllers are compared once they were set up.
      <template #next><LinkButton to="/commission/contact" main>First contact</LinkButton></template>
    </EmptyState>
    <RecordTable
      v-else-if="list"
      v-model:chosen="chosen"
      :rows="list.lines"
      :columns="columns"
      :id="(l) => l.hostId"
      noun="controller"
      plural="controllers"
      :page="page"
      :actions="actions"
    >
      <template #name="{ row: l }"
        ><RouterLink :to="page(l)"
          ><b>{{ l.name }}</b></RouterLink
        ><br /><span class="dim tiny">{{ l.path }}</span></template
      >
      <template #state="{ row: l }"
        ><FactTag v-if="!l.last">○ not compared yet</FactTag><FactTag v-else-if="l.last.changes < 0" tone="crimson">✕ could not be read</FactTag
        ><FactTag v-else-if="l.last.changes" tone="amber">▲ differs in {{ many(l.last.changes, 'record') }}</FactTag
        ><FactTag v-else tone="moss">✓ ran the design</FactTag></template
      >
      <template #at="{ row: l }"
        ><span class="dim">{{ l.last ? siteTime(l.last.at, zone, true) : '–' }}</span></template
      >
      <template #details="{ row: l }">
        <h2>{{ l.name }}</h2>
        <p v-if="l.last">{{ l.last.sentence }}</p>
        <p v-if="l.differsSince" class="bar medium">It has differed since {{ siteTime(l.differsSince, zone, true) }}, at each comparison.</p>
        <p class="acts"><LinkButton :main="!!l.last?.changes" :to="page(l)">Read back or send</LinkButton></p>
        <NTable v-if="past?.length" size="small" :bordered="false" class="close">
          <tbody>
            <tr v-for="c in past.slice(0, 12)" :key="c.at">
              <td class="mono">{{ siteTime(c.at, zone, true) }}</td>
              <td>{{ c.changes < 0 ? '✕ not read' : c.changes ? `▲ ${c.changes}` : '✓' }}</td>
              <td class="mono dim">{{ c.installedHash.slice(0, 8) }}</td>
            </tr>
          </tbody>
        </NTable>
      </template>
    </RecordTable>
    <OrphanList v-if="store.may('technician')" />
  </PageShell>
</template>

<style scoped>
.every {
  display: flex;
  gap: 6px;
  align-items: center;
}
</style>
