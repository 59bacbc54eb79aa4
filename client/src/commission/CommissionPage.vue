<script setup lang="ts">
import { useRouter } from 'vue-router'
import { useShown } from '../shared/api/cache'
import type { Schemas } from '../shared/api/http'
import { count, many, when } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Action, Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'
import ReviewPane from './ReviewPane.vue'
import { send } from './send'

type Line = Schemas['Ahead']
const store = useStore()
const router = useRouter()
const attempt = useDo()
const { value: controllers, problem, reload } = useShown('/commission', () => ({}), 'all')
const { value: building } = useShown('/site/build', () => ({}), ['jobs', 'place', 'equipment', 'point', 'controller', 'fitting', 'plantTie', 'taggingRule'])
const page = (a: Line) => `/commission/${a.controllerId}`
const columns: Column<Line>[] = [
  { key: 'name', title: 'Controller', sort: (a) => a.name },
  { key: 'ahead', title: 'Design against installed', width: 270, sort: (a) => a.changes },
  { key: 'version', title: 'Version', width: 84, isNumber: true, sort: (a) => a.version },
  { key: 'sent', title: 'Sent', width: 200, sort: (a) => a.sentAt },
]
const sendAll = (rows: Line[]) =>
  attempt(() => Promise.all(rows.map((a) => send(a.controllerId, true))), `Sending to ${many(rows.length, 'controller')}, one after the other`)
const actions: Action<Line>[] = [
  { label: 'Review', run: ([a]) => router.push(page(a!)) },
  { label: 'Send', run: sendAll, many: true, when: (a) => store.may('technician') && a.changes > 0 },
  { label: 'Dossier', run: ([a]) => (store.selected = a!.controllerId) },
]
</script>

<template>
  <PageShell :problem="problem" @again="reload">
    <template #actions>
      <FactTag v-if="building" :tone="building.lines.length ? 'amber' : 'moss'">{{ building.lines.length ? '▲' : '✓' }} {{ building.sentence }}</FactTag>
    </template>
    <EmptyState v-if="controllers && !controllers.length" title="No controller yet">
      Add one under Wire; then its program can be sent from here.
      <template #next><LinkButton to="/wire" main>Wire</LinkButton></template>
    </EmptyState>
    <RecordTable
      v-else-if="controllers"
      :rows="controllers"
      :columns="columns"
      :id="(a) => a.controllerId"
      noun="controller"
      plural="controllers"
      :words="(a) => `${a.name} ${a.path}`"
      :page="page"
      :actions="actions"
    >
      <template #name="{ row: a }"
        ><RouterLink :to="page(a)"
          ><b>{{ a.name }}</b></RouterLink
        ><br /><span class="dim tiny">{{ a.path }}</span></template
      >
      <template #ahead="{ row: a }"
        ><FactTag v-if="!a.installed" tone="amber">○ runs nothing yet · {{ count(a.changes) }} records to send</FactTag
        ><FactTag v-else-if="a.changes" tone="amber">▲ design is {{ many(a.changes, 'change') }} ahead</FactTag
        ><FactTag v-else tone="moss">✓ runs the design</FactTag></template
      >
      <template #version="{ row: a }">{{ a.version || '–' }}</template>
      <template #sent="{ row: a }"
        ><span class="dim">{{ a.sentBy ? `${a.sentBy}, ${when(a.sentAt)}` : '–' }}</span></template
      >
      <template #details="{ row: a }">
        <h2>{{ a.name }}</h2>
        <p class="dim">{{ a.path }}</p>
        <ReviewPane :controller="a.controllerId" short />
        <p class="acts"><LinkButton :main="a.changes > 0" :to="page(a)">Review</LinkButton></p>
      </template>
    </RecordTable>
    <NSkeleton v-else text :repeat="5" />
  </PageShell>
</template>
