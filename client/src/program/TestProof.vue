<script setup lang="ts">
import type { Schemas } from '../shared/api/http'
import BlockChart from './BlockChart.vue'

/** How a test went: its steps, what was otherwise and why, and what everything in it did. */
defineProps<{ proof: Schemas['Proof']; name: string }>()
const at = (s: number) => (s < 120 ? `${+s.toFixed(1)} s` : s < 7200 ? `${+(s / 60).toFixed(1)} min` : `${+(s / 3600).toFixed(1)} h`)
/** The facts of an explanation, each below what it rests on. */
const lines = (b: Schemas['Because'], depth = 0): { fact: string; depth: number }[] => [{ fact: b.fact, depth }, ...b.under.flatMap((u) => lines(u, depth + 1))]
</script>

<template>
  <div class="went">
    <ol>
      <li v-for="(s, i) in proof.steps" :key="i" class="step" :class="{ no: s.passed === false }">
        <b class="mono" :title="s.passed === true ? 'came true' : s.passed === false ? 'did not' : 'done'">{{
          s.passed === true ? '✓' : s.passed === false ? '✕' : '·'
        }}</b>
        <span class="mono line">{{ s.line }}</span>
        <span class="dim tiny">{{ s.says }}</span>
        <span class="dim mono tiny when">at {{ at(s.atSeconds) }}</span>
        <p v-for="(w, k) in s.why ? lines(s.why) : []" :key="k" class="why tiny" :style="{ paddingLeft: `${w.depth * 14}px` }">{{ w.fact }}</p>
      </li>
    </ol>
    <BlockChart
      :story="proof.story"
      :name="name"
      whole
      :marks="proof.steps.flatMap((s) => (s.passed == null ? [] : [{ at: s.atSeconds, passed: s.passed }]))"
    />
  </div>
</template>

<style scoped>
ol {
  margin: 0;
  padding: 0;
  list-style: none;
}
.went {
  display: grid;
  gap: 8px;
}
.step {
  display: grid;
  grid-template-columns: 16px minmax(0, auto) 1fr auto;
  gap: 2px 8px;
  align-items: baseline;
}
.step.no .line {
  color: var(--crimson);
}
.why {
  grid-column: 2 / -1;
  margin: 0;
  color: var(--ink-2);
}
</style>
