<script setup lang="ts">
import type { Schemas } from '../shared/api/http'

/** Two texts line by line: what went (−) before what came (+). */
defineProps<{ lines: readonly Schemas['DiffLine'][]; label: string }>()
</script>

<template>
  <ol class="against mono" :aria-label="label">
    <li v-for="(d, i) in lines" :key="i" :class="{ went: d.second == null, came: d.first == null }">
      <span>{{ d.second == null ? '−' : d.first == null ? '+' : '' }}</span>{{ d.text }}
    </li>
  </ol>
</template>

<style scoped>
.against {
  display: grid;
  margin: 0;
  padding: 6px;
  list-style: none;
  white-space: pre-wrap;
}
.against li > span {
  display: inline-block;
  width: 18px;
}
.went {
  background: var(--crimson-soft);
}
.came {
  background: var(--moss-soft);
}
</style>
