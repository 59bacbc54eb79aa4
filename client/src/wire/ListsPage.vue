<script setup lang="ts">
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useShown } from '../shared/api/cache'
import { useStore } from '../shared/store'

/** The lists that follow from panels: terminals, cables, label strips, parts; for one panel or all, on paper and as files. */
const store = useStore()
const route = useRoute()
const router = useRouter()
const key = computed(() => String(route.query.list ?? 'terminals'))
const of = computed(() => (route.query.of ? String(route.query.of) : undefined))
const { value: lists } = useShown('/hardware-lists', () => ({}), 'fixed')
const { value: controllers } = useShown('/controllers', () => ({}), ['controller'])
const { value: list, problem } = useShown('/hardware-lists/{key}', () => ({ path: { key: key.value }, query: { controller: of.value } }), [
  'controller',
  'module',
  'hardwareModel',
  'fitting',
  'point',
  'equipment',
  'place',
])
const turn = (query: Record<string, string | undefined>) => router.replace({ query: { ...route.query, ...query } })
const file = (form: string) => `/hardware-lists/${key.value}?${new URLSearchParams({ form, ...(of.value ? { controller: of.value } : {}) })}`
const panels = computed(() => [
  { value: '', label: 'all panels' },
  ...(controllers.value ?? []).map((c) => ({ value: c.controller.id, label: c.controller.name })),
])
const rows = computed(() => list.value?.rows ?? [])
const MOST = 2000
const isStrip = computed(() => key.value === 'labels')
const strips = computed(() => {
  const map = new Map<string, string[][]>()
  for (const r of rows.value.slice(0, MOST)) map.set(`${r[0]} · ${r[1]}`, [...(map.get(`${r[0]} · ${r[1]}`) ?? []), r])
  return [...map]
})
const print = () => window.print()
</script>

<template>
  <PageShell :problem="problem" :title="list?.title ?? 'Lists'">
    <template #facts>
      <ChooseOne
        v-if="lists"
        :model-value="key"
        :options="lists.map((l) => ({ value: l.key, label: l.title }))"
        label="Which list"
        @update:model-value="(l: string) => turn({ list: l })"
      />
      <PickOne
        :model-value="of ?? ''"
        :options="panels"
        aria-label="Of which panel"
        style="width: 160px"
        @update:model-value="(p) => turn({ of: p || undefined })"
      />
    </template>
    <template #actions>
      <LinkButton :href="file('csv')">CSV</LinkButton><LinkButton :href="file('xlsx')">XLSX</LinkButton><NButton id="print" @click="print">Print</NButton>
    </template>
    <EmptyState v-if="list && !rows.length" title="Nothing to list yet">
      Lists follow from panels: add a controller and put points onto its terminals.
      <template #next><LinkButton to="/wire" main>Panels</LinkButton></template>
    </EmptyState>
    <div v-else-if="list && isStrip" class="strips">
      <section v-for="[name, terminals] in strips" :key="name">
        <h2>{{ name }}</h2>
        <div class="strip">
          <span v-for="r in terminals" :key="r[2]" class="tag"
            ><b class="mono">{{ r[2] }}</b
            ><span>{{ r[3] }}</span
            ><span>{{ r[4] }}</span
            ><span class="mono dim">{{ r[5] }}</span></span
          >
        </div>
      </section>
    </div>
    <div v-else-if="list" class="sheet" tabindex="0" role="group" :aria-label="list.title">
      <NTable size="small" :bordered="false" class="close">
        <thead>
          <tr>
            <th v-for="c in list.columns" :key="c">{{ c }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(r, i) in rows.slice(0, MOST)" :key="i">
            <td v-for="(c, j) in r" :key="j">{{ c }}</td>
          </tr>
        </tbody>
      </NTable>
    </div>
    <p v-if="rows.length > MOST" class="dim">The first {{ MOST }} of {{ rows.length }} are shown; the files hold all of them.</p>
    <p v-if="store.project" class="paper">{{ store.project.name }} · revision {{ store.project.revision }}</p>
  </PageShell>
</template>

<style scoped>
.sheet {
  overflow: auto;
}
.strip {
  display: flex;
  flex-wrap: wrap;
  margin: 4px 0 12px;
}
/* As wide as the marker of a terminal, so that a strip can be cut and slid in. */
.tag {
  width: 26mm;
  min-height: 16mm;
  border: 1px solid var(--ink-3);
  margin-right: -1px;
  padding: 1mm;
  display: grid;
  align-content: start;
  font-size: 10.5px;
  line-height: 1.2;
  background: var(--sheet);
  overflow: hidden;
  overflow-wrap: anywhere;
}
.paper {
  display: none;
}
@media print {
  .paper {
    display: block;
  }
  .sheet {
    border: 0;
    overflow: visible;
  }
  section {
    break-inside: avoid;
  }
}
</style>
