<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { change, put } from '../shared/api/records'
import { get, post, type Schemas } from '../shared/api/http'
import LiveText from '../shared/LiveText.vue'
import { useLive, useLoaded, useStore } from '../shared/store'
import TieBox from './TieBox.vue'
import { useDo } from '../shared/useDo'

const props = defineProps<{ controller: string }>()
const store = useStore()
const attempt = useDo()
const {
  value: panel,
  problem,
  reload,
} = useLoaded<Schemas['Panel']>(
  () => get(`/controllers/${props.controller}/panel`),
  () => props.controller,
  ['controller', 'fitting', 'point', 'equipment', 'place', 'trend'],
)
const readings = ref(new Map<string, Schemas['TerminalReading']>())
async function read() {
  const list = await get<Schemas['TerminalReading'][]>(`/controllers/${props.controller}/terminals`).catch(() => [])
  readings.value = new Map(list.map((r) => [r.terminal, r]))
}
void read()
useIntervalFn(read, 1500)
useLive(() => [
  ...(panel.value?.terminals ?? []).flatMap((t) => (t.point ? [`p:${t.point.id}`] : [])),
  ...(panel.value?.values ?? []).map((v) => `p:${v.point.id}`),
])
const groups = computed(() => {
  const map = new Map<string, Schemas['PanelTerminal'][]>()
  for (const t of panel.value?.terminals ?? []) map.set(t.group, [...(map.get(t.group) ?? []), t])
  return [...map]
})
const chosen = ref<string | null>(null)
const terminal = computed(() => panel.value?.terminals.find((t) => t.terminal === chosen.value) ?? null)
const fit = ref<Schemas['FitView'] | null>(null)
const typed = ref('')
const dragging = ref<string | null>(null)
const signalName: Record<string, string> = {
  pt1000: 'Pt1000',
  volts: '0–10 V',
  milliamps: '4–20 mA',
  dryContact: 'dry contact',
  relay: 'relay',
  memory: 'value',
}
const may = computed(() => store.may('engineer'))

async function place(pointId: string, onto: string) {
  dragging.value = null
  if (await attempt(() => post(`/controllers/${props.controller}/terminals`, { pointId, terminal: onto }))) await reload()
}
async function takeOff(t: Schemas['PanelTerminal'] | Schemas['PanelValue']) {
  await attempt(() => change([{ remove: t.fitting!.id, from: Number(t.revision) }]), 'Taken off')
}
/** “kiln temp UI3”: the last word is the terminal, the rest words of the point. */
async function placeTyped() {
  const words = typed.value.trim().split(/\s+/)
  const onto = words.pop() ?? ''
  const { unplaced: found, moreUnplaced: more } = words.length
    ? await get<Schemas['Panel']>(`/controllers/${props.controller}/panel?words=${encodeURIComponent(words.join(' '))}`)
    : { unplaced: [], moreUnplaced: false }
  if (!words.length || !found.length)
    await attempt(() =>
      Promise.reject(
        new Error(`No point without a source has the words “${words.join(' ')}”. Type words of a point, then the terminal: room temperature UI3.`),
      ),
    )
  else if (found.length > 1)
    await attempt(() =>
      Promise.reject(
        new Error(
          `${found.length}${more ? ' and more' : ''} points match: ${found
            .slice(0, 3)
            .map((r) => `${r.owner} ${r.point.name}`)
            .join(', ')}… Type one more word.`,
        ),
      ),
    )
  else {
    await place(found[0]!.point.id, /^value$/i.test(onto) ? 'value' : onto.toUpperCase())
    typed.value = ''
  }
}
async function saveFitting(patch: object) {
  const t = terminal.value!
  await attempt(() => change([put('fitting', { ...t.fitting!, ...patch }, Number(t.revision))]))
}
async function showFit() {
  await attempt(async () => (fit.value = await get(`/controllers/${props.controller}/fit`)))
}
async function applyFit() {
  if (await attempt(() => post(`/controllers/${props.controller}/fit`), 'Fitted')) fit.value = null
}
function terminalKey(e: KeyboardEvent, i: number) {
  const all = [...document.querySelectorAll<HTMLElement>('.terminal')]
  if (e.key === 'ArrowRight') all[i + 1]?.focus()
  else if (e.key === 'ArrowLeft') all[i - 1]?.focus()
  else if (e.key === 'Delete' && terminal.value?.fitting && may.value) void takeOff(terminal.value)
  else return
  e.preventDefault()
}
const indexOf = (t: Schemas['PanelTerminal']) => panel.value!.terminals.indexOf(t)
function stateOf(t: Schemas['PanelTerminal']) {
  if (!t.fitting) return 'spare'
  return readings.value.get(t.terminal)?.trouble ? 'trouble' : 'ok'
}
</script>

<template>
  <div class="page">
    <p v-if="problem" class="wrong">{{ problem }}</p>
    <template v-if="panel">
      <div class="head">
        <h1>Panel {{ panel.controller.name }}</h1>
        <span class="pill">{{ panel.path }}</span><span class="pill">{{ panel.model.name }}</span
        ><span class="pill mono">device {{ panel.controller.deviceInstance }}</span>
        <span class="pill" :class="readings.size ? 'moss' : 'amber'">{{ readings.size ? '● reading live' : '○ nothing sent yet' }}</span>
        <span class="space" />
        <span class="pill">spare {{ panel.spare }} of {{ panel.terminals.length }}</span>
        <button class="btn" data-act="dossier" @click="store.selected = panel.controller.id">Dossier</button>
        <RouterLink class="btn" to="/wire">All panels</RouterLink>
      </div>
      <div class="cols">
        <div class="left">
          <div class="rails">
            <div v-for="[name, terminals] in groups" :key="name" class="module">
              <div class="cap">
                <b>{{ name }}</b><span class="dim">{{ [...new Set(terminals.flatMap((t) => t.signals))].map((s) => signalName[s]).join(', ') }}</span>
              </div>
              <div class="strip">
                <button
                  v-for="t in terminals"
                  :key="t.terminal"
                  :class="['terminal', stateOf(t), { on: chosen === t.terminal }]"
                  :data-terminal="t.terminal"
                  :title="t.point ? `${t.path} › ${t.point.name}` : `${t.terminal} is spare`"
                  @click="chosen = t.terminal"
                  @focus="chosen = t.terminal"
                  @keydown="terminalKey($event, indexOf(t))"
                  @dragover.prevent
                  @drop.prevent="dragging && place(dragging, t.terminal)"
                >
                  <span class="mono">{{ t.terminal }}</span><span class="screw" :aria-label="stateOf(t)">{{
                    { ok: '', trouble: '✕', spare: '' }[stateOf(t)]
                  }}</span
                  ><span class="wire"
                    ><template v-if="t.point"
                      ><b>{{ t.path?.split(' › ').at(-1) }}</b
                      ><br />{{ t.point.name }}</template
                    ><template v-else>spare</template></span
                  >
                </button>
              </div>
            </div>
          </div>
          <div class="sheet">
            <div class="head">
              <h2>In memory</h2>
              <span class="pill">{{ panel.values.length }} values</span><span class="dim">setpoints and internal values need no terminal</span>
            </div>
            <p class="values">
              <span v-for="v in panel.values" :key="v.fitting.id" class="pill" :title="v.path"
                ><button class="link" @click="store.selected = v.point.id">{{ v.path.split(' › ').slice(-2).join(' · ') }} · {{ v.point.name }}</button>
                <LiveText :id="`p:${v.point.id}`" bare
              /></span>
              <span v-if="!panel.values.length" class="dim">none</span>
            </p>
          </div>
        </div>
        <div class="right">
          <div v-if="terminal" class="sheet">
            <span class="dim">Terminal {{ terminal.terminal }} · {{ terminal.group }}</span>
            <template v-if="terminal.point && terminal.fitting">
              <h2>{{ terminal.point.name }}</h2>
              <p class="dim">{{ terminal.path }}</p>
              <p class="big"><LiveText :id="`p:${terminal.point.id}`" /></p>
              <label class="row"
                ><span>Signal</span
                ><select
                  class="field"
                  :value="terminal.fitting.signal"
                  :disabled="!may"
                  @change="saveFitting({ signal: ($event.target as HTMLSelectElement).value })"
                >
                  <option v-for="s in terminal.signals" :key="s" :value="s">{{ signalName[s] }}</option>
                </select></label
              >
              <p class="kv">
                <span>Measured</span><span class="mono">{{ readings.get(terminal.terminal)?.raw ?? '–' }} {{ readings.get(terminal.terminal)?.unit }}</span>
              </p>
              <template v-if="['volts', 'milliamps'].includes(terminal.fitting.signal)">
                <label class="row"
                  ><span>At the low end</span
                  ><span
                    ><input
                      class="field mono"
                      type="number"
                      step="any"
                      style="width: 90px"
                      :value="terminal.fitting.low"
                      :disabled="!may"
                      @change="saveFitting({ low: Number(($event.target as HTMLInputElement).value) })"
                    />
                    {{ terminal.point.unit }}</span
                  ></label
                >
                <label class="row"
                  ><span>At the high end</span
                  ><span
                    ><input
                      class="field mono"
                      type="number"
                      step="any"
                      style="width: 90px"
                      :value="terminal.fitting.high"
                      :disabled="!may"
                      @change="saveFitting({ high: Number(($event.target as HTMLInputElement).value) })"
                    />
                    {{ terminal.point.unit }}</span
                  ></label
                >
              </template>
              <label v-if="terminal.point.kind === 'analog' && terminal.direction === 'in'" class="row"
                ><span>Correction</span
                ><span
                  ><input
                    class="field mono"
                    type="number"
                    step="any"
                    style="width: 90px"
                    :value="terminal.fitting.correction"
                    :disabled="!may"
                    @change="saveFitting({ correction: Number(($event.target as HTMLInputElement).value) })"
                  />
                  {{ terminal.correctionUnit }}</span
                ></label
              >
              <label v-if="terminal.point.kind === 'binary'" class="row"
                ><span>Turned round</span
                ><input
                  type="checkbox"
                  :checked="terminal.fitting.inverted"
                  :disabled="!may"
                  @change="saveFitting({ inverted: ($event.target as HTMLInputElement).checked })"
              /></label>
              <TieBox :point-id="terminal.point.id" />
              <div v-if="readings.get(terminal.terminal)?.trouble" class="bar crimson">
                ✕ {{ terminal.terminal }}: {{ readings.get(terminal.terminal)?.trouble }}.
              </div>
              <p class="acts">
                <button class="btn small" @click="store.selected = terminal.point.id">Dossier</button
                ><button v-if="may" class="btn small" @click="takeOff(terminal)">Take off</button>
              </p>
            </template>
            <template v-else>
              <h2>Spare</h2>
              <p class="dim">Can carry {{ terminal.signals.map((s) => signalName[s]).join(', ') }}. Drag a point here, or choose one:</p>
              <p class="pick">
                <button v-for="r in panel.unplaced.slice(0, 12)" :key="r.point.id" class="btn small" @click="place(r.point.id, terminal.terminal)">
                  {{ r.owner }} · {{ r.point.name }}
                </button>
              </p>
            </template>
          </div>
          <div class="sheet unplaced">
            <div class="head">
              <h2>Without a source</h2>
              <span class="pill" :class="{ amber: panel.unplaced.length }">{{
                panel.moreUnplaced ? `over ${panel.unplaced.length}` : panel.unplaced.length
              }}</span>
            </div>
            <p v-if="panel.moreUnplaced" class="dim">The nearest {{ panel.unplaced.length }} are listed; words of any other find it too.</p>
            <form v-if="may && panel.unplaced.length" class="head" @submit.prevent="placeTyped">
              <input
                id="type-terminal"
                v-model="typed"
                class="field mono"
                style="flex: 1"
                placeholder="room temperature UI3"
                aria-label="Type words of a point and a terminal"
              /><button class="btn small">Put</button>
            </form>
            <p v-for="r in panel.unplaced" :key="r.point.id" class="card" draggable="true" :title="r.path" @dragstart="dragging = r.point.id">
              <b>{{ r.point.name }}</b> <span class="dim">{{ r.owner }}</span><button
                v-if="may && r.isForMemory"
                class="btn small"
                @click="place(r.point.id, 'value')"
              >
                To memory
              </button>
            </p>
            <p v-if="!panel.unplaced.length" class="dim">✓ Every point of this building has a source.</p>
            <button v-if="may && panel.unplaced.length" id="fit" class="btn main" @click="showFit">Fit the points…</button>
          </div>
        </div>
      </div>
      <div v-if="fit" class="sheet">
        <div class="head">
          <h2>Fit the points</h2>
          <span>{{ fit.sentence }}</span><span class="space" /><button id="fit-apply" class="btn main" :disabled="!fit.fittings.length" @click="applyFit">
            Put {{ fit.fittings.length }} onto {{ panel.controller.name }}</button
          ><button class="btn" @click="fit = null">Not now</button>
        </div>
        <table class="grid">
          <tbody>
            <tr v-for="f in fit.fittings" :key="f.pointId">
              <td class="mono">{{ f.terminal }}</td>
              <td>
                <b>{{ f.name }}</b> <span class="dim">{{ f.path }}</span>
              </td>
              <td>{{ f.signal }}</td>
            </tr>
            <tr v-for="l in fit.left" :key="l.pointId">
              <td class="wrong">✕</td>
              <td>
                <b>{{ l.name }}</b> <span class="dim">{{ l.path }}</span>
              </td>
              <td>{{ l.why }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
  </div>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 310px;
  gap: 12px;
  align-items: start;
}
.left,
.right {
  display: grid;
  gap: 12px;
  min-width: 0;
}
.rails {
  background: repeating-linear-gradient(var(--sunk) 0 112px, var(--rule) 112px 124px, var(--sunk) 124px 248px);
  border: 1px solid var(--rule);
  border-radius: 10px;
  padding: 14px;
  display: flex;
  flex-wrap: wrap;
  gap: 14px 12px;
}
.module {
  background: var(--sheet);
  border: 1px solid var(--ink-3);
  border-radius: 6px;
  height: 220px;
  display: flex;
  flex-direction: column;
}
.cap {
  padding: 5px 10px;
  border-bottom: 1px solid var(--rule);
  display: grid;
  text-align: center;
  font-size: 13px;
}
.cap .dim {
  font-size: 11.5px;
}
.strip {
  display: flex;
  flex: 1;
  min-height: 0;
}
.terminal {
  border: 0;
  border-right: 1px dotted var(--rule);
  background: none;
  width: 43px;
  padding: 6px 0;
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 5px;
  cursor: pointer;
  font-size: 12px;
  min-height: 0;
}
.terminal:last-child {
  border-right: 0;
}
.terminal.on {
  background: var(--plum-soft);
}
.screw {
  width: 16px;
  height: 16px;
  border-radius: 4px;
  border: 2px solid var(--ink-3);
  flex: none;
  font-size: 10px;
  line-height: 12px;
}
.ok .screw {
  background: var(--moss);
  border-color: var(--moss);
}
.trouble .screw {
  border-color: var(--crimson);
  color: var(--crimson);
  font-weight: 700;
}
.spare .screw {
  border-style: dashed;
}
.wire {
  writing-mode: vertical-rl;
  line-height: 1.15;
  font-size: 11.5px;
  max-width: 36px;
  transform: rotate(180deg);
  flex: 1;
  min-height: 0;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
  text-align: left;
}
.spare .wire {
  color: var(--ink-2);
  font-style: italic;
}
.values,
.pick,
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
  margin-top: 6px;
}
.link {
  border: 0;
  background: none;
  padding: 0;
  cursor: pointer;
}
.big {
  font-size: 21px;
  color: var(--plum);
}
.kv {
  display: grid;
  grid-template-columns: 130px 1fr;
  gap: 8px;
}
.kv span:first-child {
  color: var(--ink-2);
}
.card {
  border: 1px solid var(--rule);
  border-radius: 6px;
  padding: 2px 8px;
  margin: 4px 0;
  cursor: grab;
  display: flex;
  gap: 6px;
  align-items: center;
}
.card .dim {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.unplaced {
  max-height: 420px;
  overflow: auto;
}
</style>
