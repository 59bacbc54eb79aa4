<script setup lang="ts">
import { computed, ref } from 'vue'
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
const what = ref<'all' | 'outputs' | 'inputs'>('all')
const simulated = computed(() => store.held.filter((h) => h.isInput))
const shown = computed(() => (what.value === 'all' ? store.held : store.held.filter((h) => h.isInput === (what.value === 'inputs'))))
const whats = computed(() => [
  { value: 'all' as const, label: `All ${store.held.length}` },
  { value: 'outputs' as const, label: `◐ Held ${store.held.length - simulated.value.length}` },
  { value: 'inputs' as const, label: `▣ Simulated ${simulated.value.length}` },
])
const columns: Column<Held>[] = [
  { key: 'name', title: 'What', sort: (h) => h.name },
  { key: 'says', title: 'Held at', width: 180 },
  { key: 'who', title: 'By', width: 92, sort: (h) => h.who },
  { key: 'why', title: 'Why' },
  { key: 'at', title: 'Since', width: 126, sort: (h) => h.at },
  { key: 'until', title: 'Until', width: 126, sort: (h) => h.until ?? Infinity },
]
const actions = computed<Action<Held>[]>(() => [
  ...(store.may('operator') ? [{ label: 'Release', run: release, many: true, key: 'Delete' }] : []),
  { label: 'Open its dossier', run: ([h]: Held[]) => (store.selected = h!.pointId) },
])
</script>

<template>
  <PageShell lede="outputs people hold, and inputs of the virtual site that they simulate, wherever they are">
    <template #facts
      ><ChooseOne v-if="store.held.length" v-model="what" :options="whats" label="What to show" /><NButton
        v-if="simulated.length && store.may('technician')"
        id="release-simulated"
        size="small"
        @click="attempt(() => post('/held/inputs/release'), 'All sensors speak again')"
        >Let all sensors speak again</NButton
      ></template
    >
    <EmptyState v-if="!shown.length" :title="what === 'inputs' ? '✓ Nothing is simulated' : '✓ Nothing is held by hand anywhere'"
      >To hold an output, or to simulate an input, open its point and choose “Hold by hand…” or “Simulate…”.</EmptyState
    >
    <RecordTable
      v-else
      :rows="shown"
      :columns="columns"
      :id="(h) => h.pointId"
      noun="hold"
      plural="held"
      :words="(h) => `${h.name} ${h.path}`"
      :actions="actions"
    >
      <template #name="{ row: h }"
        ><NButton text type="info" @click="store.selected = h.pointId"
          ><b>{{ h.isInput ? '▣' : '◐' }} {{ h.name }}</b></NButton
        ><br /><span class="dim tiny">{{ h.path }}</span></template
      >
      <template #says="{ row: h }"
        ><span v-if="!h.course || !h.course.includes('\n')" class="mono">{{ h.says }}</span> <FactTag v-if="h.isInput">simulated</FactTag>
        <pre v-if="h.course?.includes('\n')" class="dim tiny course">{{ h.course }}</pre>
      </template>
      <template #at="{ row: h }"
        ><span class="mono">{{ siteTime(h.at, zone, true) }}</span></template
      >
      <template #until="{ row: h }"
        ><span class="mono">{{ h.until ? siteTime(h.until, zone, true) : 'released by hand' }}</span></template
      >
    </RecordTable>
  </PageShell>
</template>

<style scoped>
.course {
  margin: 2px 0 0;
  max-height: 96px;
  overflow: auto;
}
</style>
