<script setup lang="ts">
import { computed } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import { siteTime } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Action, Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'

type Held = Schemas['HeldView']
const store = useStore()
const attempt = useDo()
const zone = computed(() => store.project?.timeZone ?? 'UTC')
const release = (rows: Held[]) =>
  attempt(
    async () => {
      for (const h of rows) await post('/held/release', { body: { pointId: h.pointId } })
    },
    rows.length === 1 ? `Released ${rows[0]!.name}` : `Released ${rows.length}`,
  )
const columns: Column<Held>[] = [
  { key: 'name', title: 'What', sort: (h) => h.name },
  { key: 'says', title: 'Held at', width: 130 },
  { key: 'who', title: 'By', width: 100, sort: (h) => h.who },
  { key: 'why', title: 'Why' },
  { key: 'at', title: 'Since', width: 160, sort: (h) => h.at },
  { key: 'until', title: 'Until', width: 160, sort: (h) => h.until ?? Infinity },
]
const actions = computed<Action<Held>[]>(() => [
  ...(store.may('operator') ? [{ label: 'Release', run: release, many: true, key: 'Delete' }] : []),
  { label: 'Open its dossier', run: ([h]: Held[]) => (store.selected = h!.pointId) },
])
</script>

<template>
  <PageShell lede="outputs people hold, and inputs of the virtual site set by hand, wherever they are">
    <template #facts
      ><FactTag>{{ store.held.length }}</FactTag></template
    >
    <EmptyState v-if="!store.held.length" title="✓ Nothing is held by hand anywhere">To hold an output, open its point and choose “Hold by hand…”.</EmptyState>
    <RecordTable
      v-else
      :rows="store.held"
      :columns="columns"
      :id="(h) => h.pointId"
      noun="hold"
      plural="held"
      :words="(h) => `${h.name} ${h.path}`"
      :actions="actions"
    >
      <template #name="{ row: h }"
        ><NButton text type="info" @click="store.selected = h.pointId"
          ><b>◐ {{ h.name }}</b></NButton
        ><br /><span class="dim tiny">{{ h.path }}</span></template
      >
      <template #says="{ row: h }"
        ><span class="mono">{{ h.says }}</span> <FactTag v-if="h.isInput">input</FactTag></template
      >
      <template #at="{ row: h }"
        ><span class="mono">{{ siteTime(h.at, zone, true) }}</span></template
      >
      <template #until="{ row: h }"
        ><span class="mono">{{ h.until ? siteTime(h.until, zone, true) : 'released by hand' }}</span></template
      >
    </RecordTable>
  </PageShell>
</template>
