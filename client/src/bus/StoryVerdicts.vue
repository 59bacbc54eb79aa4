<script setup lang="ts">
import type { Schemas } from '../shared/api/http'
import { clock } from './lanes'

/** What was expected of a story, and what came of it. */
defineProps<{ verdicts: Schemas['StoryVerdict'][] }>()
const emit = defineEmits<{ remove: [id: string] }>()
</script>

<template>
  <ul v-if="verdicts.length" class="verdicts">
    <li v-for="v in verdicts" :key="v.expected.id" :class="{ wrong: !v.passed }">
      {{ v.passed ? '✓' : '✕' }} <span class="mono">{{ clock(v.expected.at) }}</span> {{ v.said }}
      <NButton text size="tiny" :title="`No longer expect: ${v.said}`" @click="emit('remove', v.expected.id)">take away</NButton>
    </li>
  </ul>
</template>

<style scoped>
.verdicts {
  margin: 0 0 8px;
  padding: 0;
  list-style: none;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 18px;
}
</style>
