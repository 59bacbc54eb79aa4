<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../shared/api/http'

/** How loaded a line is: the last second, the last two minutes, and who speaks most. */
const props = defineProps<{ view: Schemas['MonitorView'] }>()
const load = computed(() => props.view.load)
const shares = computed(() => [
  { title: 'Devices that speak most', rows: props.view.devices.slice(0, 4) },
  { title: 'Groups that are spoken to most', rows: props.view.groups.slice(0, 4) },
])
</script>

<template>
  <aside class="sheet load" aria-label="Load of the line">
    <div v-if="load">
      <h3>Load of the line</h3>
      <p>
        <b>{{ load.now }} %</b> in the last second<br />{{ load.busiest }} % in the busiest of the last two minutes
      </p>
      <svg
        v-if="load.seconds.length > 1"
        :viewBox="`0 0 ${load.seconds.length} 100`"
        preserveAspectRatio="none"
        role="img"
        :aria-label="`Load second by second from 0 to 100 %, at most ${load.busiest} %`"
      >
        <rect v-for="(s, i) in load.seconds" :key="i" :x="i" :y="100 - s" width="0.8" :height="s" />
      </svg>
    </div>
    <div v-for="s in shares" :key="s.title">
      <h3>{{ s.title }}</h3>
      <p v-for="r in s.rows" :key="r.address" class="share">
        <span class="mono">{{ r.address }}</span> {{ r.name }} <span class="dim tiny">{{ r.telegrams }}×, {{ r.percent }} % of the time</span>
      </p>
    </div>
  </aside>
</template>

<style scoped>
.load {
  display: grid;
  grid-template-columns: 240px 1fr 1fr;
  gap: 18px;
  padding: 8px 14px;
  margin-bottom: 8px;
}
svg {
  width: 100%;
  height: 36px;
  background: var(--sunk);
  fill: var(--plum);
}
.share {
  margin: 2px 0;
  overflow-wrap: anywhere;
}
@media (max-width: 900px) {
  .load {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
