<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../shared/api/http'
import { drawStory } from './story'

/** What a block makes of an example: what comes in above, what goes out below, each on a strip of its own with its range. */
const props = defineProps<{
  story: Schemas['BlockStory']
  name: string
  whole?: boolean
  /** Moments at which something was expected, s from the beginning, and whether it came true. */ marks?: readonly { at: number; passed: boolean }[]
}>()
const strips = computed(() => drawStory(props.story.lines))
const lines = computed(() =>
  (props.marks ?? []).map((m) => ({ ...m, path: `M${Math.min(159.5, (160 * m.at) / Math.max(1, props.story.seconds)).toFixed(1)} 0V22` })),
)
const span = computed(() => {
  const s = props.story.seconds
  return s < 300 ? `${Math.round(s)} s` : s < 7200 ? `${Math.round(s / 60)} min` : `${Math.round(s / 3600)} h`
})
</script>

<template>
  <figure v-if="strips.length" :aria-label="`${name} over ${span}`">
    <div v-for="x in strips" :key="x.pin + x.isInput" class="strip" :class="{ into: x.isInput }">
      <span class="what tiny"
        ><span>{{ x.isInput ? '→' : '←' }} {{ x.label }}</span
        ><span class="dim mono">{{ x.range }}</span></span
      >
      <svg viewBox="0 0 160 22" preserveAspectRatio="none" aria-hidden="true">
        <path :d="x.path" :class="{ filled: x.isBinary }" />
        <path v-for="(m, i) in lines" :key="i" :d="m.path" class="mark" :class="{ no: !m.passed }" />
      </svg>
    </div>
    <figcaption class="dim tiny">
      {{ whole ? 'the whole story, ' : 'an example of ' }}{{ span }}{{ lines.length ? '; thin lines: expected and so, thick: expected and not so' : '' }}
    </figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 6px 0;
  display: grid;
  gap: 2px;
}
.strip {
  display: grid;
  grid-template-columns: 118px 1fr;
  gap: 6px;
  align-items: center;
}
.what {
  display: grid;
  line-height: 1.15;
  overflow: hidden;
  white-space: nowrap;
}
.what span {
  overflow: hidden;
  text-overflow: ellipsis;
}
svg {
  width: 100%;
  height: 24px;
  background: var(--sunk);
  border-radius: 3px;
}
path {
  fill: none;
  stroke: var(--russet);
  stroke-width: 1.6;
  vector-effect: non-scaling-stroke;
}
.into path {
  stroke: var(--ink-2);
}
path.filled {
  fill: var(--russet-soft, var(--sunk));
}
.into path.filled {
  fill: none;
}
figcaption {
  text-align: right;
}
path.mark {
  stroke: var(--moss);
  stroke-width: 1;
  stroke-dasharray: 2 2;
}
path.mark.no {
  stroke: var(--crimson);
  stroke-width: 3;
  stroke-dasharray: none;
}
</style>
