<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { Flag, useStore } from '../shared/store'
import { layOut, type Diagram, type DiagramLine, type DiagramNode } from './diagram'
import DiagramBlock from './DiagramBlock.vue'
import DiagramOutput from './DiagramOutput.vue'
import { layout } from './layout'
import type { SequenceWork } from './useSequence'

/** A sequence in its three lanes, laid out by the program, with what flows in it now. */
const props = defineProps<{ work: SequenceWork }>()
const store = useStore()
const { view, types, picked, held, byId, readBy, ladderBy, live } = props.work
const s = props.work.s
const diagram = shallowRef<Diagram | null>(null)
watch(
  [view, types],
  async ([v, t]) => {
    if (v && t.size) diagram.value = await layOut(v, t, layout)
  },
  { immediate: true },
)
const canvas = ref<HTMLElement>()
const { width } = useElementSize(canvas)
/** Below this nobody reads it: a larger sequence is scrolled, unless somebody wants to see the whole. */
const READABLE = 0.6
const fit = computed(() => (diagram.value ? Math.min(1.25, (width.value || 600) / diagram.value.width) : 1))
const whole = ref(false)
const zoom = computed(() => (whole.value ? fit.value : Math.max(READABLE, fit.value)))
// What is picked elsewhere, as by a clause, is brought into sight.
watch(picked, ([first]) => first && canvas.value?.querySelector(`[data-id="${CSS.escape(first)}"]`)?.scrollIntoView({ block: 'nearest', inline: 'nearest' }), {
  flush: 'post',
})
const place = (n: DiagramNode) => ({ left: `${n.x}px`, top: `${n.y}px`, width: `${n.width}px`, height: `${n.height}px` })
/** What Space has gathered; walking on with Tab does not lose it. */
let kept: string[] = []
function pick(id: string, e: MouseEvent | FocusEvent) {
  const isClick = e instanceof MouseEvent
  if (isClick) kept = []
  const adds = isClick && (e.ctrlKey || e.shiftKey || e.metaKey)
  if (adds) picked.value = picked.value.includes(id) ? picked.value.filter((x) => x !== id) : [...picked.value, id]
  else if (!picked.value.includes(id) || isClick) picked.value = [id]
  if (id.startsWith('o:') && !adds) store.selected = null
}
/** Takes the node with the focus into the selection, or out of it. */
function gather(element: HTMLElement) {
  const id = element.dataset.id
  if (!id) return
  const now = picked.value
  picked.value = now.includes(id) && now.length > 1 ? now.filter((x) => x !== id) : [...new Set([...kept, ...now, id])]
  kept = picked.value
}
const hold = (id: string) =>
  (held.value = {
    at: id,
    source: id.startsWith('p:')
      ? { from: 'point', pointId: id.slice(2) }
      : { from: 'schedule', scheduleId: id.slice(2).split('/')[0]!, ahead: id.endsWith('/ahead') },
  })
function clear() {
  picked.value = []
  held.value = null
}
const states = [
  [Flag.fault, 'fault'],
  [Flag.stale, 'stale'],
  [Flag.released, 'released'],
] as const
function lineClass(l: DiagramLine) {
  const v = live(l.liveId)
  const state = states.find(([flag]) => (v?.f ?? Flag.released) & flag)
  if (state) return state[1]
  const isState = l.binary || (v?.text !== undefined && !/[0-9]/.test(v.text) && v.v !== undefined)
  return isState ? (v!.v! > 0.5 ? 'on' : 'off') : 'analog'
}
defineExpose({ gather })
</script>

<template>
  <div ref="canvas" class="canvas sheet" @click.self="clear">
    <div v-if="fit < READABLE" class="whole">
      <NButton v-if="fit < READABLE" size="small" :aria-pressed="whole" @click="whole = !whole">{{ whole ? 'To be read' : 'See the whole' }}</NButton>
    </div>
    <p v-if="view && !diagram" class="empty">Laying it out…</p>
    <div v-if="diagram" class="scaled" :style="{ width: `${diagram.width}px`, minHeight: `${diagram.height}px`, zoom }" @click.self="clear">
      <div class="lane" :style="{ left: 0, width: `${diagram.lanes[0]}px` }">Reads</div>
      <div class="lane mid" :style="{ left: `${diagram.lanes[0]}px`, width: `${diagram.lanes[1] - diagram.lanes[0]}px` }">Decides</div>
      <div class="lane last" :style="{ left: `${diagram.lanes[1]}px` }">Commands</div>
      <svg :width="diagram.width" :height="diagram.height" aria-hidden="true">
        <g v-for="l in diagram.lines" :key="l.id">
          <path :d="l.path" :class="['line', lineClass(l)]" />
          <text v-if="l.conversion" :x="l.middle.x" :y="l.middle.y" class="conversion">{{ l.conversion }}</text>
        </g>
      </svg>
      <template v-for="n in diagram.nodes" :key="n.id">
        <div
          v-if="n.kind === 'read' && readBy(n.id)"
          class="read"
          :class="{ on: held?.at === n.id }"
          :style="place(n)"
          tabindex="0"
          role="button"
          :title="readBy(n.id)!.path"
          @click="hold(n.id)"
          @dblclick="store.selected = readBy(n.id)!.recordId"
          @keydown.enter.stop="store.selected = readBy(n.id)!.recordId"
        >
          <b>{{ readBy(n.id)!.name }}</b>
          <span class="mono"
            ><span v-if="(live(n.id)?.f ?? 0) & Flag.outOfService" class="simulated" role="img" aria-label="simulated">▣ </span>{{ live(n.id)?.text ?? '–' }}
            <span class="dim">{{ readBy(n.id)!.where ?? 'not wired' }}</span></span
          >
        </div>
        <DiagramBlock
          v-else-if="n.kind === 'block' && byId(n.id)"
          :node="n"
          :work="work"
          :block="byId(n.id)!"
          :style="place(n)"
          @click.stop="pick(n.id, $event)"
          @focus="pick(n.id, $event)"
        />
        <DiagramOutput
          v-else-if="ladderBy(n.id)"
          :node="n"
          :work="work"
          :output="ladderBy(n.id)!"
          :style="place(n)"
          @click.stop="pick(n.id, $event)"
          @focus="pick(n.id, $event)"
        />
      </template>
    </div>
    <p v-if="s && !s.blocks?.length && !s.commands?.length" class="empty">
      Nothing here yet. Insert a block by typing words below, and an output to command; then connect them.
    </p>
  </div>
</template>

<style scoped>
.canvas {
  padding: 0;
  overflow: auto;
  max-height: 72vh;
  min-height: min(380px, 45vh);
  position: relative;
  display: flex;
}
.whole {
  position: sticky;
  left: 8px;
  top: 26px;
  z-index: 2;
  flex: none;
  width: 0;
  height: 0;
  white-space: nowrap;
}
.scaled {
  position: relative;
  flex: 1 0 auto;
}
/* Over the lanes. */
.empty {
  position: absolute;
  inset: 60px 40px auto;
  text-align: center;
}
.scaled svg {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.lane {
  position: absolute;
  top: 0;
  bottom: 0;
  padding: 8px 14px;
  font-size: 12.5px;
  color: var(--ink-2);
  pointer-events: none;
}
.lane.mid {
  border-left: 1px dashed var(--rule);
  border-right: 1px dashed var(--rule);
  background: var(--paper);
}
.lane.last {
  right: 0;
  text-align: right;
}
.read {
  position: absolute;
  cursor: pointer;
  display: flex;
  flex-direction: column;
  overflow: hidden;
  white-space: nowrap;
  border-right: 3px solid var(--ink-3);
}
.simulated {
  color: var(--plum);
}
.read.on {
  background: var(--plum-soft);
}
.line {
  fill: none;
  stroke: var(--ink-2);
  stroke-width: 1.3;
}
.line.on {
  stroke: var(--plum);
  stroke-width: 3.4;
}
.line.analog {
  stroke: var(--plum);
  stroke-width: 1.4;
}
.line.released {
  stroke-dasharray: 1.5 4;
  stroke-width: 1.8;
}
.line.stale {
  stroke: var(--amber);
  stroke-dasharray: 6 4;
}
.line.fault {
  stroke: var(--crimson);
  stroke-dasharray: 6 4;
  stroke-width: 2;
}
.conversion {
  font: 10.5px var(--mono);
  fill: var(--russet);
  text-anchor: end;
}
</style>
