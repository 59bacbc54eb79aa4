<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { get, post, type Schemas } from '../shared/api/http'
import { change } from '../shared/api/records'
import { useLive, useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
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
} = useShown('/controllers/{id}/panel', () => ({ path: path.value }), ['controller', 'fitting', 'point', 'equipment', 'place', 'trend'])
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
async function place(pointId: string, onto: string) {
  if (await attempt(() => post('/controllers/{id}/terminals', { path: path.value, body: { pointId, terminal: onto } }))) await reload()
}
const takeOff = (t: Schemas['PanelTerminal']) =>
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
      <NButton data-act="dossier" @click="store.selected = panel.controller.id">Dossier</NButton>
      <LinkButton to="/wire">All panels</LinkButton>
    </template>
    <div v-if="panel" class="cols">
      <div class="left">
        <PanelRails
          :terminals="panel.terminals"
          :readings="readings"
          :chosen="terminal?.terminal ?? null"
          @choose="(t) => (chosen = t)"
          @drop="place"
          @remove="takeOff"
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
        <FitBox v-if="fitting" :controller="panel.controller" @close="fitting = false" />
      </div>
      <div class="right">
        <TerminalPane
          v-if="terminal"
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
