<script setup lang="ts">
import type { Schemas } from '../shared/api/http'

/** What a kind of block promises, topic by topic. */
defineProps<{ help: Schemas['BlockHelp']; settings?: string }>()
</script>

<template>
  <dl>
    <dt>Units</dt>
    <dd>{{ help.units }}</dd>
    <dt>Status</dt>
    <dd>{{ help.status }}</dd>
    <dt>Edge cases</dt>
    <dd>{{ help.edges }}</dd>
    <dt>Start</dt>
    <dd>{{ help.start }}</dd>
    <template v-if="help.change">
      <dt>Changes</dt>
      <dd>{{ help.change }}</dd>
    </template>
    <template v-if="settings">
      <dt>Settings</dt>
      <dd>{{ settings }}</dd>
    </template>
  </dl>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 80px 1fr;
  gap: 2px 8px;
  margin: 0;
  font-size: 13px;
}
dt {
  color: var(--ink-2);
}
dd {
  margin: 0;
}
</style>
