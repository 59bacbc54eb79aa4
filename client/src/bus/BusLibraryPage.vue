<script setup lang="ts">
import { ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { api, post, type Schemas } from '../shared/api/http'
import { many } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'

/** The device descriptions that ship, and those a project brings along in a file. */
type Line = Schemas['DescriptionLine']
const store = useStore()
const attempt = useDo()
const { value: devices, problem, reload } = useShown('/bus/descriptions', () => ({}), ['deviceDescription', 'busDevice'])
const chosen = ref<string | null>(null)
const columns: Column<Line>[] = [
  { key: 'name', title: 'Device', sort: (d) => d.name },
  { key: 'channels', title: 'Channels', width: 250 },
  { key: 'parameters', title: 'Parameters', width: 96, isNumber: true, sort: (d) => d.parameters },
  { key: 'objects', title: 'Objects', width: 78, isNumber: true, sort: (d) => d.objects },
  { key: 'draws', title: 'Draws, mA', width: 88, isNumber: true, sort: (d) => d.busMilliamps },
  { key: 'uses', title: 'Used', width: 60, isNumber: true, sort: (d) => d.uses },
]
const file = ref<File | null>(null)
const read = ref<Schemas['DescriptionReading'] | null>(null)
const look = (chosenFile: File) =>
  attempt(async () => {
    file.value = chosenFile
    read.value = await post('/bus/descriptions', { body: chosenFile })
  })
async function take() {
  if (await attempt(() => post('/bus/descriptions', { query: { take: true }, body: file.value! }), 'Taken into the bus library')) read.value = null
}
const roles: Record<Schemas['LineRole'], string> = {
  device: 'takes part on a line',
  supply: 'feeds a line',
  coupler: 'joins a line to the one above',
  interface: 'leads to IP',
}
</script>

<template>
  <PageShell :problem="problem" @again="reload">
    <template v-if="devices" #facts
      ><FactTag>{{ many(devices.length, 'description') }}</FactTag></template
    >
    <template #actions>
      <LinkButton :href="api('/schemas/bus-devices.json')">Schema</LinkButton
      ><FilePick v-if="store.may('engineer')" input-id="description-file" label="Read a description" accept=".json" @choose="look" />
    </template>
    <FileReading v-if="read" :holds="read.devices" noun="device" :errors="read.errors" take-id="description-take" @take="take" @leave="read = null" />
    <RecordTable
      v-if="devices"
      v-model:chosen="chosen"
      :rows="devices"
      :columns="columns"
      :id="(d) => d.id"
      noun="device description"
      plural="device descriptions"
      :words="(d) => `${d.name} ${d.id} ${d.about ?? ''} ${d.channels.join(' ')}`"
    >
      <template #name="{ row: d }"
        ><b>{{ d.name }}</b
        ><br /><span class="dim tiny mono">{{ d.id }}, revision {{ d.revision }}{{ d.isOwn ? ', the project’s own' : '' }}</span></template
      >
      <template #channels="{ row: d }">{{ d.channels.join(', ') || roles[d.role as Schemas['LineRole']] }}</template>
      <template #parameters="{ row: d }">{{ d.parameters || '–' }}</template>
      <template #objects="{ row: d }">{{ d.objects || '–' }}</template>
      <template #draws="{ row: d }">{{ d.busMilliamps || '–' }}</template>
      <template #uses="{ row: d }">{{ d.uses || '–' }}</template>
      <template #details="{ row: d }">
        <h2>{{ d.name }}</h2>
        <p>{{ d.about }}</p>
        <p class="dim">{{ d.widthMillimetres ? `${d.widthMillimetres} mm on a rail` : 'not for a rail' }}; {{ roles[d.role as Schemas['LineRole']] }}.</p>
        <p>Draws {{ d.busMilliamps }} mA from the bus{{ d.givesMilliamps ? `, gives it ${d.givesMilliamps} mA` : '' }}; {{ d.price }} EUR.</p>
        <p v-for="c in d.channels" :key="c">{{ c }}</p>
        <p v-if="d.canBeSecured">Can be put to work with a certificate.</p>
      </template>
    </RecordTable>
    <NSkeleton v-else text :repeat="5" />
  </PageShell>
</template>
