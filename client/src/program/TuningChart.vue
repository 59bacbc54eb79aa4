<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../shared/api/http'
import { drawCurves } from './curves'

/** Curves over one time, those of one unit on one scale: each told apart by its dash and its name, not by colour alone. */
const props = defineProps<{ curves: readonly Schemas['TuningCurve'][]; seconds: number; label: string }>()
const bands = computed(() => drawCurves(props.curves))
const span = computed(() => (props.seconds < 7200 ? `${Math.round(props.seconds / 60)} min` : `${+(props.seconds / 3600).toFixed(1)} h`))
const dashes = ['', '6 3', '2 3', '9 3 2 3', '1 2']
const tones = ['var(--plum)', 'var(--moss)', 'var(--crimson)', 'var(--amber)', 'var(--ink-2)']
</script>

<template>
  <figure :aria-label="`${label} over ${span}`">
    <div v-for="band in bands" :key="band.unit" class="band">
      <span class="mono tiny high">{{ band.high }} {{ band.unit }}</span>
      <span class="mono tiny low">{{ band.low }} {{ band.unit }}</span>
      <svg viewBox="0 0 400 100" preserveAspectRatio="none" aria-hidden="true">
        <path v-for="c in band.curves" :key="c.name" :d="c.path" :stroke="tones[c.at % 5]" :stroke-dasharray="dashes[c.at % 5]" />
      </svg>
    </div>
    <figcaption class="tiny">
      <span v-for="c in bands.flatMap((b) => b.curves)" :key="c.name" class="key"
        ><svg viewBox="0 0 26 6" aria-hidden="true"><path d="M0 3H26" :stroke="tones[c.at % 5]" :stroke-dasharray="dashes[c.at % 5]" /></svg>{{ c.name }}</span
      ><span class="dim">{{ span }}</span>
    </figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 4px 0;
  display: grid;
  gap: 4px;
}
.band {
  display: grid;
  grid-template-columns: 76px 1fr;
  grid-template-rows: auto 1fr auto;
  column-gap: 6px;
}
.band svg {
  grid-column: 2;
  grid-row: 1 / -1;
  width: 100%;
  height: 104px;
  background: var(--sunk);
  border-radius: 6px;
}
.low {
  grid-row: 3;
}
.high,
.low {
  text-align: right;
}
path {
  fill: none;
  stroke-width: 1.6;
  vector-effect: non-scaling-stroke;
}
figcaption {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  padding-left: 82px;
}
.key {
  display: inline-flex;
  gap: 5px;
  align-items: center;
}
.key svg {
  width: 26px;
  height: 6px;
}
</style>
