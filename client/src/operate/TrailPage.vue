<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { get, type Schemas } from '../shared/api/http'
import { siteTime, when } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'

type Entry = Schemas['TrailEntry']
const store = useStore()
const attempt = useDo()
const zone = computed(() => store.project?.timeZone ?? 'UTC')
const { value: newest, problem, reload } = useShown('/trail', () => ({}), ['events', 'jobs'])
const older = ref<Entry[]>([])
const trail = computed(() => [...(newest.value ?? []), ...older.value.filter((e) => e.id < (newest.value?.at(-1)?.id ?? 0))])
const earlier = () => attempt(async () => (older.value = [...older.value, ...(await get('/trail', { query: { below: trail.value.at(-1)!.id } }))]))
const columns: Column<Entry>[] = [
  { key: 'siteAt', title: 'Site time', width: 176, sort: (t) => t.siteAt },
  { key: 'who', title: 'Who', width: 120, sort: (t) => t.who },
  { key: 'what', title: 'What' },
  { key: 'at', title: 'Really at', width: 150, sort: (t) => t.at },
]
</script>

<template>
  <PageShell lede="everything that commanded the installation leaves a trace here" :problem="problem" @again="reload">
    <EmptyState v-if="newest && !newest.length" title="Nothing yet">Nobody has sent, held, released or acknowledged anything.</EmptyState>
    <RecordTable
      v-else-if="newest"
      :rows="trail"
      :columns="columns"
      :id="(t) => String(t.id)"
      noun="entry"
      plural="entries"
      :words="(t) => `${t.who} ${t.what}`"
    >
      <template #tools><NButton v-if="(trail.at(-1)?.id ?? 1) > 1 && newest.length >= 100" size="small" @click="earlier">Earlier ones</NButton></template>
      <template #siteAt="{ row: t }"
        ><span class="mono">{{ siteTime(t.siteAt, zone, true) }}</span></template
      >
      <template #at="{ row: t }"
        ><span class="dim">{{ when(t.at) }}</span></template
      >
    </RecordTable>
  </PageShell>
</template>
