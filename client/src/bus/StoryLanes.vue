<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../shared/api/http'
import { clock, draw, worth, type Change, type Drawn } from './lanes'

/** What everything was through a story, a strip each; a point says why it changed and leads to the parameter that decides it. */
const props = defineProps<{ run: Schemas['StoryRun']; over?: Schemas['StoryRun'] | null; device: string; names: Record<string, string> }>()
const emit = defineEmits<{ lead: [path: string]; expect: [what: string, at: number, value: number] }>()
const all = ref(false)
const lanes = computed(() => {
  const drawn = worth(props.run.lanes).map((l) => draw(l, props.run.seconds))
  return all.value ? drawn : drawn.filter((d) => d.changes.length > 1 || d.lane.sort === 'driven').slice(0, 60)
})
const hidden = computed(() => props.run.lanes.length - lanes.value.length)
const others = computed(() => new Map((props.over?.lanes ?? []).map((l) => [`${l.device}|${l.what}`, draw(l, props.run.seconds)])))
const open = ref<{ key: string; at: number } | null>(null)
const named = (l: Schemas['StoryLane']) => (l.device === props.device ? l.label : `${props.names[l.device] ?? ''}: ${l.label}`)
const arrow: Record<string, string> = { sensed: '→', driven: '●', said: '✉' }
/** The change that is explained; of a story that was told anew the one in its place. */
const shown = (d: Drawn): Change | undefined => (open.value?.key === d.key ? d.changes[Math.min(open.value.at, d.changes.length - 1)] : undefined)
/** The change nearest to where the strip was pressed; by keys the first one. */
function nearest(e: MouseEvent, d: Drawn) {
  const box = (e.currentTarget as HTMLElement).getBoundingClientRect()
  const x = e.detail ? (1000 * (e.clientX - box.left)) / box.width : 0
  const near = d.changes.map((c, at) => ({ at, far: Math.abs(c.x - x) })).sort((a, b) => a.far - b.far)[0]
  open.value = near && !(open.value?.key === d.key && open.value.at === near.at) ? { key: d.key, at: near.at } : null
}
function step(e: KeyboardEvent, d: Drawn) {
  const at = open.value?.key === d.key ? open.value.at : -1
  const to = e.key === 'ArrowRight' ? at + 1 : e.key === 'ArrowLeft' ? at - 1 : -2
  if (to === -2) return
  e.preventDefault()
  open.value = { key: d.key, at: Math.max(0, Math.min(d.changes.length - 1, to)) }
}
</script>

<template>
  <div class="lanes" role="list">
    <div v-for="d in lanes" :key="d.key" class="lane" role="listitem" :data-lane="d.lane.what">
      <span class="what" :title="`${d.lane.sort}: ${named(d.lane)}`"
        ><span>{{ arrow[d.lane.sort] }} {{ named(d.lane) }}</span
        ><span class="dim mono tiny">{{ d.range }}</span></span
      >
      <BareButton
        class="field"
        :aria-label="`${named(d.lane)}: ${d.changes.length} changes; arrows go through them`"
        :aria-expanded="!!shown(d)"
        @click="(e: MouseEvent) => nearest(e, d)"
        @keydown="(e: KeyboardEvent) => step(e, d)"
      >
        <svg viewBox="0 0 1000 26" preserveAspectRatio="none" aria-hidden="true">
          <path v-if="others.get(d.key)" :d="others.get(d.key)!.path" class="over" />
          <path :d="d.path" :class="d.lane.sort" />
        </svg>
        <i
          v-for="(c, n) in d.changes.slice(0, 80)"
          :key="n"
          class="dot"
          :class="{ sends: c.sends, on: shown(d) === c }"
          :style="{ left: `${c.x / 10}%` }"
          :title="`${clock(c.at)} ${c.says}${c.fact ? `: ${c.fact}` : ''}`"
        />
      </BareButton>
      <p v-if="shown(d)" class="why">
        <b class="mono">{{ clock(shown(d)!.at) }}</b> {{ shown(d)!.says }}<template v-if="shown(d)!.fact">: {{ shown(d)!.fact }}.</template>
        <NButton v-if="shown(d)!.parameter" text size="tiny" type="info" data-act="lead" @click="emit('lead', shown(d)!.parameter!)"
          >The parameter that decides it</NButton
        >
        <NButton text size="tiny" @click="emit('expect', d.lane.what, shown(d)!.at, d.lane.stretches.find((s) => s.at === shown(d)!.at)?.to ?? 0)"
          >Expect it</NButton
        >
      </p>
    </div>
    <NButton v-if="hidden > 0 || all" text size="tiny" @click="all = !all">{{ all ? 'Only what changes' : `${hidden} more that do not change` }}</NButton>
  </div>
</template>

<style scoped>
.lane {
  display: grid;
  grid-template-columns: 230px minmax(0, 1fr);
  gap: 0 8px;
  align-items: center;
  border-bottom: 1px solid var(--rule);
}
.what {
  display: flex;
  justify-content: space-between;
  gap: 6px;
  overflow: hidden;
  white-space: nowrap;
}
.what span:first-child {
  overflow: hidden;
  text-overflow: ellipsis;
}
.field {
  position: relative;
  height: 30px;
  width: 100%;
  padding: 0;
}
svg {
  width: 100%;
  height: 30px;
  display: block;
}
path {
  fill: none;
  stroke: var(--plum);
  stroke-width: 2;
  vector-effect: non-scaling-stroke;
}
path.sensed {
  stroke: var(--ink-2);
}
path.driven {
  stroke: var(--russet);
}
path.over {
  stroke: var(--sky);
  stroke-dasharray: 4 3;
}
.dot {
  position: absolute;
  top: 9px;
  width: 12px;
  height: 12px;
  margin-left: -6px;
  border-radius: 50%;
  border: 2px solid transparent;
  pointer-events: none;
}
.dot::after {
  content: '';
  display: block;
  width: 6px;
  height: 6px;
  margin: 1px;
  border-radius: 50%;
  background: var(--ink-2);
}
.dot.sends::after {
  background: var(--plum);
}
.dot.on {
  border-color: var(--russet);
}
.why {
  grid-column: 2;
  margin: 0 0 4px;
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
  align-items: center;
}
</style>
