<script setup lang="ts">
import { computed } from 'vue'
import type { Block } from '../shared/api/records'
import { Flag } from '../shared/store'
import { shownInputs, type DiagramNode } from './diagram'
import type { SequenceWork } from './useSequence'

/** A block in the diagram: its name, the settings that matter most, what arrives at each input and what comes out. */
const props = defineProps<{ node: DiagramNode; work: SequenceWork; block: Block }>()
const { held, picked } = props.work
const pins = computed(() =>
  shownInputs(props.block, props.work.typeOf(props.block)!).map((p) => ({ ...p, arrives: props.work.arrives(props.block.id, p.name) })),
)
const several = computed(() => props.node.outputs.length > 1)
const labels = computed(() => new Map(props.work.typeOf(props.block)!.outputs.map((o) => [o.name, o.label])))
const marks = [
  [Flag.fault, '✕'],
  [Flag.stale, '◇'],
  [Flag.overridden, '◐'],
  [Flag.outOfService, '▣'],
] as const
const mark = (f: number) => marks.find(([flag]) => f & flag)?.[1] ?? ''
const at = (pin: string) => props.node.id + pin
const take = (pin: string) => (held.value = { source: { from: 'block', blockId: props.node.id, pin }, at: at(pin) })
function click(e: MouseEvent, pin: string) {
  if (!held.value) return
  e.stopPropagation()
  void props.work.connect(props.node.id, pin)
}
</script>

<template>
  <div
    class="block"
    :class="{ on: picked.includes(node.id) }"
    tabindex="0"
    role="group"
    :aria-label="work.say(block)"
    :data-block="block.kind"
    :data-id="node.id"
  >
    <b class="title">{{ work.say(block) }}</b>
    <span v-for="[k, v] in work.settings(block)" :key="k" class="set"
      ><span class="dim">{{ k }}</span
      ><span class="mono">{{ v }}</span></span
    >
    <span v-for="p in pins" :key="p.name" class="pinrow"
      ><span>{{ p.label }}</span
      ><span class="mono arrives" :class="{ none: p.arrives.f & Flag.released, fault: p.arrives.f & Flag.fault }" :data-arrives="p.name"
        >{{ mark(p.arrives.f) }} {{ p.arrives.text }}</span
      ></span
    >
    <template v-if="several">
      <span v-for="p in node.outputs" :key="p.pin" class="pinrow gives">{{ labels.get(p.pin) }}</span>
    </template>
    <BareButton
      v-for="p in node.inputs"
      :key="p.pin"
      class="pin"
      :class="{ open: !block.inputs?.[p.pin] }"
      :style="{ top: `${p.y - 6}px` }"
      tabindex="-1"
      :aria-label="`Input ${p.pin}`"
      :title="held ? `Connect to ${p.pin}` : `${p.pin}: click an output first, then here; or type a source at the right`"
      @click="click($event, p.pin)"
    />
    <BareButton
      v-for="p in node.outputs"
      :key="p.pin"
      class="badge mono"
      :class="{
        true: work.pinLive(node.id, p.pin)?.text === 'on',
        none: (work.pinLive(node.id, p.pin)?.f ?? Flag.released) & Flag.released,
        held: held?.at === at(p.pin),
      }"
      :style="{ top: `${several ? p.y - 9 : p.y - 24}px` }"
      tabindex="-1"
      :title="`${labels.get(p.pin) ?? p.pin}: click, then click an input to connect`"
      @click.stop="take(p.pin)"
      >{{ work.pinLive(node.id, p.pin)?.text ?? '–' }}</BareButton
    >
  </div>
</template>

<style scoped>
.block {
  position: absolute;
  cursor: pointer;
  background: var(--sheet);
  border: 1.5px solid var(--ink-3);
  border-radius: 8px;
  padding: 4px 10px;
  display: flex;
  flex-direction: column;
}
.block.on {
  border-color: var(--plum);
  box-shadow: 0 0 0 3px var(--plum-soft);
}
.title {
  height: 22px;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
}
.set {
  display: flex;
  justify-content: space-between;
  font-size: 12px;
  height: 17px;
  white-space: nowrap;
  overflow: hidden;
}
.set .dim {
  overflow: hidden;
  text-overflow: ellipsis;
  padding-right: 6px;
}
.set .mono {
  flex: none;
}
.pinrow {
  font-size: 12px;
  height: 18px;
  color: var(--ink-2);
  margin-left: 2px;
  display: flex;
  justify-content: space-between;
  gap: 6px;
  white-space: nowrap;
}
.arrives {
  color: var(--ink);
  overflow: hidden;
  text-overflow: ellipsis;
}
.arrives.none {
  color: var(--ink-2);
  font-style: italic;
}
.arrives.fault {
  color: var(--crimson);
}
.pin {
  position: absolute;
  left: -7px;
  width: 12px;
  height: 12px;
  border-radius: 50%;
  border: 2px solid var(--ink-2);
  background: var(--ink-2);
  cursor: crosshair;
}
.pin.open {
  background: var(--sheet);
}
.pin:hover {
  border-color: var(--plum);
  background: var(--plum);
}
.pinrow.gives {
  display: block;
  padding-right: 62px;
  text-align: right;
  overflow: hidden;
  text-overflow: ellipsis;
}
.badge {
  position: absolute;
  right: 8px;
  border: 1px solid var(--ink-3);
  background: var(--sunk);
  border-radius: 5px;
  font-size: 11.5px;
  padding: 0 6px;
  cursor: crosshair;
  height: 19px;
}
.badge.true {
  background: var(--plum);
  border-color: var(--plum);
  color: var(--sheet);
}
.badge.none {
  border-style: dashed;
  background: var(--sheet);
}
.badge.held {
  outline: 2px solid var(--russet);
}
</style>
