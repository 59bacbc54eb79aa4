<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../shared/api/http'
import type { DiagramNode } from './diagram'
import type { SequenceWork } from './useSequence'

/** A commanded output in the diagram, with the ladder of all claims on it and the one that wins now. */
const props = defineProps<{ node: DiagramNode; work: SequenceWork; output: Schemas['LadderDesign'] }>()
const { held, picked, ladders } = props.work
const now = computed(() => ladders.value.get(props.output.pointId))
const rungs = computed(() => props.output.rungs.map((r) => ({ ...r, now: now.value?.rungs.find((x) => x.priority === r.priority) })))
const value = computed(() => props.work.live(`p:${props.output.pointId}`))
const FALLBACK = 0
</script>

<template>
  <div
    class="output"
    :class="{ on: picked.includes(node.id) }"
    tabindex="0"
    role="group"
    :aria-label="output.name"
    :data-output="output.pointId"
    :data-id="node.id"
  >
    <span class="title"
      ><b>{{ output.name }}</b
      ><span class="state mono" :class="{ true: (value?.v ?? 0) > 0.5 }">{{ value?.text ?? '–' }}</span></span
    >
    <span v-for="r in rungs" :key="r.priority" class="rung" :class="{ wins: r.now?.wins }">
      <i class="mono">{{ r.priority }}</i><span>{{ r.label }}</span
      ><span
        class="mono dim"
        :class="{ limited: r.now?.limitedTo }"
        :title="r.now?.limitedTo ? `beyond what the output can be: limited to ${r.now.limitedTo}` : undefined"
        >{{ r.now?.limitedTo ? '⊣ ' : '' }}{{ r.now?.says?.split(' (')[0] ?? '' }} {{ r.now?.wins ? '◀' : '' }}</span
      ></span
    >
    <span class="rung" :class="{ wins: now?.winner === FALLBACK }"
      ><i class="mono">–</i><span>Fallback</span><span class="mono dim">{{ output.fallback }} {{ now?.winner === FALLBACK ? '◀' : '' }}</span></span
    >
    <BareButton
      v-for="p in node.inputs"
      :key="p.pin"
      class="pin"
      :style="{ top: `${p.y - 6}px` }"
      tabindex="-1"
      :aria-label="`Claim ${p.pin.split('@')[1]}`"
      :title="held ? 'Connect here' : p.pin.split('@')[1]"
      @click.stop="work.connect(node.id, p.pin)"
    />
  </div>
</template>

<style scoped>
.output {
  position: absolute;
  cursor: pointer;
  background: var(--sheet);
  border: 1.5px solid var(--ink-3);
  border-radius: 8px;
  display: flex;
  flex-direction: column;
}
.output.on {
  border-color: var(--plum);
  box-shadow: 0 0 0 3px var(--plum-soft);
}
.title {
  height: 33px;
  display: flex;
  justify-content: space-between;
  align-items: center;
  padding: 0 10px;
  border-bottom: 1px solid var(--rule);
  overflow: hidden;
  white-space: nowrap;
}
.state {
  border-radius: 5px;
  background: var(--sunk);
  padding: 0 7px;
}
.state.true {
  background: var(--plum);
  color: var(--sheet);
}
.rung {
  display: grid;
  grid-template-columns: 24px 1fr auto;
  gap: 4px;
  align-items: center;
  height: 26px;
  padding: 0 8px 0 10px;
  font-size: 12.5px;
  white-space: nowrap;
  overflow: hidden;
}
.rung > span:nth-child(2) {
  overflow: hidden;
  text-overflow: ellipsis;
}
.rung.wins {
  background: var(--plum-soft);
  font-weight: 600;
}
.limited {
  color: var(--amber);
}
.rung i {
  font-style: normal;
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
.pin:hover {
  border-color: var(--plum);
  background: var(--plum);
}
</style>
