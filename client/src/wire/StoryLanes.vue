<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../shared/api/http'
import { clock, draw, worth, type Change } from './lanes'

/** What everything was through a story, a strip each; a point says why it changed and leads to the parameter that decides it. */
const props = defineProps<{ run: Schemas['StoryRun']; over?: Schemas['StoryRun'] | null; device: string }>()
const emit = defineEmits<{ lead: [path: string]; expect: [what: string, at: number, value: number] }>()
const all = ref(false)
const lanes = computed(() => {
  const drawn = worth(props.run.lanes).map((l) => draw(l, props.run.seconds))
  return all.value ? drawn : drawn.filter((d) => d.changes.length > 1 || d.lane.sort === 'driven').slice(0, 60)
})
const hidden = computed(() => props.run.lanes.length - lanes.value.length)
const others = computed(() => new Map((props.over?.lanes ?? []).map((l) => [`${l.device}|${l.what}`, draw(l, props.run.seconds)])))
const open = ref<{ key: string; change: Change } | null>(null)
const arrow: Record<string, string> = { sensed: '→', driven: '●', said: '✉' }
const toggle = (key: string, change: Change) => (open.value = open.value?.change === change ? null : { key, change })
</script>

<template>
  <div class="lanes" role="list">
    <div v-for="d in lanes" :key="d.key" class="lane" role="listitem" :data-lane="d.lane.what">
      <span class="what" :title="`${d.lane.sort}: ${d.lane.label}`"
        ><span>{{ arrow[d.lane.sort] }} {{ d.lane.label }}</span
        ><span class="dim mono tiny">{{ d.range }}</span></span
      >
      <div class="field">
        <svg viewBox="0 0 1000 26" preserveAspectRatio="none" aria-hidden="true">
          <path v-if="others.get(d.key)" :d="others.get(d.key)!.path" class="over" />
          <path :d="d.path" :class="d.lane.sort" />
        </svg>
        <BareButton
          v-for="(c, i) in d.changes.slice(0, 80)"
          :key="i"
          class="dot"
          :class="{ sends: c.sends, on: open?.change === c }"
          :style="{ left: `${c.x / 10}%` }"
          :title="`${clock(c.at)} ${c.says}${c.fact ? `: ${c.fact}` : ''}`"
          :aria-label="`${d.lane.label} at ${clock(c.at)}: ${c.says}`"
          @click="toggle(d.key, c)"
        />
      </div>
      <p v-if="open?.key === d.key" class="why">
        <b class="mono">{{ clock(open.change.at) }}</b> {{ open.change.says }}<template v-if="open.change.fact">: {{ open.change.fact }}.</template>
        <NButton v-if="open.change.parameter" text size="tiny" type="info" data-act="lead" @click="emit('lead', open.change.parameter!)"
          >The parameter that decides it</NButton
        >
        <NButton text size="tiny" @click="emit('expect', d.lane.what, open.change.at, d.lane.stretches.find((s) => s.at === open!.change.at)?.to ?? 0)"
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
.dot.on,
.dot:hover {
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
