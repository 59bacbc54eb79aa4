<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { get, post, type Schemas } from '../shared/api/http'
import { change } from '../shared/api/records'
import { useLive, useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import AddModuleBox from './AddModuleBox.vue'
import DevicePane from './DevicePane.vue'
import FitBox from './FitBox.vue'
import PanelRails from './PanelRails.vue'
import TerminalPane from './TerminalPane.vue'
import UnplacedPane from './UnplacedPane.vue'

const props = defineProps<{ controller: string }>()
const store = useStore()
const attempt = useDo()
const path = computed(() => ({ id: props.controller }))
const {
  value: panel,
  problem,
  reload,
} = useShown('/controllers/{id}/panel', () => ({ path: path.value }), [
  'controller',
  'module',
  'hardwareModel',
  'fitting',
  'point',
  'equipment',
  'place',
  'trend',
])
const readings = ref(new Map<string, Schemas['TerminalReading']>())
async function read() {
  const list = await get('/controllers/{id}/terminals', { path: path.value }).catch(() => [])
  readings.value = new Map(list.map((r) => [r.terminal, r]))
}
void read()
useIntervalFn(read, 1500)
useLive(() => [
  ...(panel.value?.terminals ?? []).flatMap((t) => (t.point ? [`p:${t.point.id}`] : [])),
  ...(panel.value?.values ?? []).map((v) => `p:${v.point.id}`),
])
const chosen = ref<string | null>(null)
const terminal = computed(() => panel.value?.terminals.find((t) => t.terminal === chosen.value) ?? panel.value?.terminals[0] ?? null)
const may = computed(() => store.may('engineer'))
const fitting = ref(false)
const adding = ref(false)
/** The device that is looked at in the place of a terminal: a module's id, nothing for the controller itself. */
const device = ref<string | null>(null)
const shown = computed(() => {
  for (const rail of panel.value?.enclosure.rails ?? []) {
    const found = rail.devices.find((d) => (d.module?.id ?? '') === device.value)
    if (found) return { rail, device: found }
  }
  return null
})
function choose(t: string) {
  chosen.value = t
  device.value = null
}
const move = (id: string, rail: number, before: string | null) => attempt(() => post('/modules/{id}/move', { path: { id }, body: { rail, before } as never }))
async function place(pointId: string, onto: string) {
  if (await attempt(() => post('/controllers/{id}/terminals', { path: path.value, body: { pointId, terminal: onto } }))) await reload()
}
const takeOff = (t: Schemas['PanelTerminalView']) =>
  may.value && t.fitting && attempt(() => change([{ remove: t.fitting!.id, from: t.revision! } as never]), 'Taken off')
</script>

<template>
  <PageShell :title="panel ? `Panel ${panel.controller.name}` : 'Panel'" :problem="problem" @again="reload">
    <template v-if="panel" #facts>
      <FactTag>{{ panel.path }}</FactTag><FactTag>{{ panel.model.name }}</FactTag
      ><FactTag mono>device {{ panel.controller.deviceInstance }}</FactTag
      ><FactTag :tone="readings.size ? 'moss' : 'amber'">{{ readings.size ? '● reading live' : '○ nothing sent yet' }}</FactTag
      ><FactTag>spare {{ panel.spare }} of {{ panel.terminals.length }}</FactTag>
    </template>
    <template v-if="panel" #actions>
      <NButton v-if="may && panel.model.mostModules" id="add-module" @click="adding = true">Add a module…</NButton>
      <LinkButton :to="`/wire/lists?of=${panel.controller.id}`">Lists</LinkButton>
      <NButton data-act="dossier" @click="store.selected = panel.controller.id">Dossier</NButton>
      <LinkButton to="/wire">All panels</LinkButton>
    </template>
    <div v-if="panel" class="cols">
      <div class="left">
        <PanelRails
          :panel="panel"
          :readings="readings"
          :chosen="device === null ? (terminal?.terminal ?? null) : null"
          :device="device"
          :may="may"
          @choose="choose"
          @device="(key) => (device = key)"
          @drop="place"
          @remove="takeOff"
          @move="move"
        />
        <div class="sheet">
          <div class="head">
            <h2>In memory</h2>
            <FactTag>{{ panel.values.length }} values</FactTag><span class="dim">setpoints and internal values need no terminal</span>
          </div>
          <p class="values">
            <FactTag v-for="v in panel.values" :key="v.fitting.id" :title="v.path"
              ><NButton text type="info" size="small" @click="store.selected = v.point.id"
                >{{ v.path.split(' › ').slice(-2).join(' · ') }} · {{ v.point.name }}</NButton
              >&nbsp;<LiveValue :id="`p:${v.point.id}`" bare
            /></FactTag>
            <span v-if="!panel.values.length" class="dim">none</span>
          </p>
        </div>
        <FitBox v-if="fitting" :controller="panel.controller" :takes-modules="panel.model.mostModules > 0" @close="fitting = false" />
      </div>
      <div class="right">
        <DevicePane v-if="shown" :key="device!" :panel="panel" :device="shown.device" :rail="shown.rail" :may="may" />
        <TerminalPane
          v-else-if="terminal"
          :key="terminal.terminal"
          :terminal="terminal"
          :reading="readings.get(terminal.terminal)"
          :unplaced="panel.unplaced"
          :may="may"
          @place="place"
          @remove="takeOff"
        />
        <UnplacedPane :panel="panel" :may="may" @place="place" @fit="fitting = true" />
      </div>
    </div>
    <AddModuleBox v-if="adding && panel" :panel="panel" @close="adding = false" />
  </PageShell>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 320px;
  gap: 12px;
  align-items: start;
}
.left,
.right {
  display: grid;
  gap: 12px;
  min-width: 0;
}
.values {
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
  margin-top: 6px;
}
@media (max-width: 700px) {
  .cols {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
