<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../shared/api/http'
import FillBar from '../shared/ui/FillBar.vue'

/** The rails of an enclosure to scale: devices in their order, inputs and outputs on the two edges of each, with the point on every terminal and how it is. */
type Terminal = Schemas['PanelTerminalView']
type Device = Schemas['RailDevice']
const props = defineProps<{
  panel: Schemas['Panel']
  readings: ReadonlyMap<string, Schemas['TerminalReading']>
  chosen: string | null
  device: string | null
  may: boolean
}>()
const emit = defineEmits<{
  choose: [terminal: string]
  device: [key: string]
  drop: [pointId: string, terminal: string]
  remove: [terminal: Terminal]
  move: [moduleId: string, rail: number, before: string | null]
}>()
const root = ref<HTMLElement>()
/** The width that all rails are drawn to: the widest, also where too much stands on one. */
const width = computed(() => Math.max(props.panel.enclosure.railMillimetres, ...props.panel.enclosure.rails.map((r) => r.usedMillimetres)))
const percent = (mm: number) => `${(100 * mm) / width.value}%`
const keyOf = (d: Device) => d.module?.id ?? ''
const of = computed(() => {
  const map = new Map<string, Terminal[]>()
  for (const t of props.panel.terminals) map.set(t.moduleId ?? '', [...(map.get(t.moduleId ?? '') ?? []), t])
  return map
})
/** The two edges of a device, as full as each other. */
function edges(d: Device) {
  const all = of.value.get(keyOf(d)) ?? []
  const top = Math.ceil(all.length / 2)
  return [all.slice(0, top), all.slice(top)].filter((e) => e.length)
}
const stateOf = (t: Terminal) => (!t.fitting ? 'spare' : props.readings.get(t.terminal)?.trouble ? 'trouble' : 'ok')
const owner = (t: Terminal) => t.path?.split(' › ').at(-1)
function key(e: KeyboardEvent, t: Terminal) {
  const step = { ArrowRight: 1, ArrowLeft: -1 }[e.key]
  const list = props.panel.terminals
  if (step) root.value?.querySelector<HTMLElement>(`[data-terminal="${list[list.indexOf(t) + step]?.terminal}"]`)?.focus()
  else if (e.key === 'Delete') emit('remove', t)
  else return
  e.preventDefault()
}
const MODULE = 'module:'
const carried = (e: DragEvent) => e.dataTransfer?.getData('text/plain') ?? ''
function dropOn(e: DragEvent, t: Terminal) {
  const id = carried(e)
  if (id && !id.startsWith(MODULE)) emit('drop', id, t.terminal)
}
function dropModule(e: DragEvent, rail: number, before: string | null) {
  const id = carried(e)
  if (id.startsWith(MODULE)) emit('move', id.slice(MODULE.length), rail, before)
}
</script>

<template>
  <div ref="root" class="enclosure">
    <section v-for="rail in panel.enclosure.rails" :key="rail.number" class="rail" :aria-label="`Rail ${rail.number}`">
      <p class="cap">
        <b>Rail {{ rail.number }}</b
        ><FillBar
          :used="rail.usedMillimetres"
          :of="panel.enclosure.railMillimetres"
          :tone="rail.usedMillimetres > panel.enclosure.railMillimetres ? 'crimson' : 'plum'"
        /><span class="dim">mm</span>
      </p>
      <div class="row" :class="{ bare: !rail.devices.length }" @dragover.prevent @drop.prevent="dropModule($event, rail.number, null)">
        <div
          v-for="d in rail.devices"
          :key="keyOf(d)"
          class="device"
          :class="{ on: device === keyOf(d) }"
          :style="{ left: percent(d.fromMillimetres), width: percent(d.widthMillimetres) }"
          @drop.prevent.stop="dropModule($event, rail.number, d.module?.id ?? null)"
        >
          <BareButton
            class="name"
            :data-device="d.module?.name ?? panel.controller.name"
            :draggable="may && !!d.module"
            :title="`${d.module?.name ?? panel.controller.name} · ${d.model?.name} · ${d.widthMillimetres} mm`"
            @click="emit('device', keyOf(d))"
            @dragstart="$event.dataTransfer?.setData('text/plain', MODULE + d.module?.id)"
            ><b>{{ d.module?.name ?? panel.controller.name }}</b> {{ d.model?.name ?? d.module?.modelId }}</BareButton
          >
          <div v-for="(edge, i) in edges(d)" :key="i" class="edge">
            <BareButton
              v-for="t in edge"
              :key="t.terminal"
              :class="['terminal', stateOf(t), { on: chosen === t.terminal }]"
              :data-terminal="t.terminal"
              :title="t.point ? `${t.terminal}: ${t.path} › ${t.point.name}` : `${t.terminal} is spare`"
              @click="emit('choose', t.terminal)"
              @focus="emit('choose', t.terminal)"
              @keydown="key($event, t)"
              @dragover.prevent
              @drop.prevent.stop="dropOn($event, t)"
            >
              <span class="mono label">{{ t.label }}</span><span class="screw" role="img" :aria-label="stateOf(t)">{{
                stateOf(t) === 'trouble' ? '✕' : ''
              }}</span
              ><span class="wire"
                ><template v-if="t.point"
                  ><b>{{ owner(t) }}</b> {{ t.point.name }}</template
                ><template v-else>spare</template></span
              >
            </BareButton>
          </div>
        </div>
        <i
          v-if="rail.usedMillimetres > panel.enclosure.railMillimetres"
          class="end"
          :style="{ left: percent(panel.enclosure.railMillimetres) }"
          title="end of the rail"
        />
      </div>
    </section>
    <p class="supplies">
      <FactTag v-for="s in panel.enclosure.supplies" :key="s.supply" :tone="s.short ? 'crimson' : null" :title="s.short ?? ''"
        >{{ s.short ? '▲ ' : s.isFromOutside ? '' : '✓ ' }}{{ s.supply }}: {{ s.drawnMilliamps
        }}{{ s.isFromOutside ? ' mA from outside' : ` of ${s.givenMilliamps} mA` }}</FactTag
      ><FactTag>{{ panel.enclosure.price }} EUR of hardware</FactTag>
    </p>
    <p v-for="t in panel.troubles" :key="t" class="bar crimson">▲ {{ t }}</p>
  </div>
</template>

<style scoped>
.enclosure {
  background: var(--sunk);
  border: 1px solid var(--rule);
  border-radius: 10px;
  padding: 10px 12px;
  display: grid;
  gap: 8px;
  overflow-x: auto;
}
.cap,
.supplies {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-bottom: 4px;
  font-size: 12.5px;
  flex-wrap: wrap;
}
.row {
  position: relative;
  min-width: 760px;
  height: 262px;
  background: linear-gradient(transparent 124px, var(--rule) 124px 138px, transparent 138px);
}
.row.bare {
  height: 64px;
  background: linear-gradient(transparent 25px, var(--rule) 25px 39px, transparent 39px);
}
.device {
  position: absolute;
  inset-block: 0;
  background: var(--sheet);
  border: 1px solid var(--ink-3);
  border-radius: 5px;
  display: flex;
  flex-direction: column;
  overflow: hidden;
}
.device.on {
  outline: 2px solid var(--plum);
}
.name {
  height: 24px;
  padding: 0 6px;
  font-size: 11.5px;
  border-bottom: 1px solid var(--rule);
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  text-align: left;
  flex: none;
}
.edge {
  display: flex;
  flex: 1;
  min-height: 0;
}
.terminal {
  border-right: 1px dotted var(--rule);
  flex: 1;
  min-width: 0;
  padding: 3px 0;
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 3px;
  overflow: hidden;
}
.terminal.on {
  background: var(--plum-soft);
}
.label {
  font-size: 10px;
  letter-spacing: -0.6px;
}
.screw {
  width: 13px;
  height: 13px;
  border-radius: 4px;
  border: 2px solid var(--ink-3);
  flex: none;
  font-size: 9px;
  line-height: 9px;
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
  max-width: 100%;
  font-size: 11px;
  line-height: 1.1;
  transform: rotate(180deg);
  flex: 1;
  min-height: 0;
  overflow: hidden;
  text-align: left;
}
.spare .wire {
  color: var(--ink-2);
  font-style: italic;
}
.end {
  position: absolute;
  inset-block: -3px;
  border-left: 2px dashed var(--crimson);
}
</style>
