<script setup lang="ts">
import { ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { api, post, type Schemas } from '../shared/api/http'
import { count, many } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'

/** The hardware that panels are made of: what ships, and what a project brings along in a file. */
type Model = Schemas['HardwareModel']
const store = useStore()
const attempt = useDo()
const { value: models, problem, reload } = useShown('/catalogue', () => ({}), ['hardwareModel'])
const chosen = ref<string | null>(null)
const columns: Column<Model>[] = [
  { key: 'name', title: 'Model', sort: (m) => m.name },
  { key: 'kind', title: 'Kind', width: 90, sort: (m) => m.kind },
  { key: 'terminals', title: 'Terminals', width: 230 },
  { key: 'width', title: 'Width, mm', width: 84, isNumber: true, sort: (m) => m.widthMillimetres },
  { key: 'modules', title: 'Modules', width: 78, isNumber: true, sort: (m) => m.mostModules },
  { key: 'price', title: 'Price, EUR', width: 84, isNumber: true, sort: (m) => m.price },
]
const file = ref<File | null>(null)
const read = ref<Schemas['CatalogueView'] | null>(null)
const look = (chosenFile: File) =>
  attempt(async () => {
    file.value = chosenFile
    read.value = await post('/catalogue', { body: chosenFile })
  })
async function take() {
  if (await attempt(() => post('/catalogue', { query: { take: true }, body: file.value! }), 'Taken into the catalogue')) read.value = null
}
const { value: signals } = useShown('/signals', () => ({}), 'fixed')
const called = (key: string) => signals.value?.find((s) => s.key === key)?.name ?? key
const currents = (list: readonly Schemas['SupplyCurrent'][]) => list.map((c) => `${c.milliamps} mA of ${c.supply}`).join(', ') || 'nothing'
const limits = (g: Schemas['TerminalGroup']) =>
  [g.mostAmps && `${g.mostAmps} A each`, g.mostMilliamps && `${g.mostMilliamps} mA each`, g.feedOf > 1 && g.feedAmps && `${g.feedAmps} A a feed of ${g.feedOf}`]
    .filter(Boolean)
    .join(', ')
</script>

<template>
  <PageShell :problem="problem" @again="reload">
    <template v-if="models" #facts
      ><FactTag>{{ many(models.length, 'model') }}</FactTag></template
    >
    <template #actions>
      <LinkButton :href="api('/schemas/hardware.json')">Schema</LinkButton
      ><FilePick v-if="store.may('engineer')" input-id="catalogue-file" label="Read a catalogue file" accept=".json" @choose="look" />
    </template>
    <FileReading v-if="read" :holds="read.models" noun="model" :errors="read.errors" take-id="catalogue-take" @take="take" @leave="read = null" />
    <RecordTable
      v-if="models"
      v-model:chosen="chosen"
      :rows="models"
      :columns="columns"
      :id="(m) => m.id"
      noun="model"
      plural="models"
      :words="(m) => `${m.name} ${m.id} ${m.kind} ${m.groups.flatMap((g) => g.signals).join(' ')}`"
    >
      <template #name="{ row: m }"
        ><b>{{ m.name }}</b
        ><br /><span class="dim tiny mono">{{ m.id }}</span></template
      >
      <template #kind="{ row: m }">{{ m.kind }}</template>
      <template #terminals="{ row: m }">{{ m.terminalsInWords || '–' }}</template>
      <template #width="{ row: m }">{{ m.widthMillimetres }}</template>
      <template #modules="{ row: m }">{{ m.mostModules || '–' }}</template>
      <template #price="{ row: m }">{{ m.price }}</template>
      <template #details="{ row: m }">
        <h2>{{ m.name }}</h2>
        <p class="dim">draws {{ currents(m.draws) }}; gives {{ currents(m.gives) }}</p>
        <template v-for="g in m.groups" :key="g.prefix">
          <h3>{{ g.prefix }}1–{{ g.count }} {{ g.name }}</h3>
          <p>{{ g.signals.map(called).join(', ') }}</p>
          <p v-if="limits(g)" class="dim">{{ limits(g) }}</p>
        </template>
        <template v-if="m.runsPrograms">
          <h3>Memory</h3>
          <p>{{ count(m.values) }} values, {{ count(m.trendSamples) }} trend samples</p>
          <p v-if="m.operationsPerSecond">{{ count(m.operationsPerSecond) }} operations of sequences a second</p>
          <h3>Software</h3>
          <p v-for="p in m.parts" :key="p.key">
            {{ p.name }} {{ p.version }} <span class="dim">{{ p.kilobytes }} kB{{ p.needs.length ? `, needs ${p.needs.join(', ')}` : '' }}</span>
          </p>
          <p class="dim">runtime {{ m.runtimes.join(', ') }}</p>
        </template>
      </template>
    </RecordTable>
  </PageShell>
</template>
