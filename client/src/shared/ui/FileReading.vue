<script setup lang="ts">
import { many } from '../numbers'

/** What a file that was chosen holds, before it is taken: what it brings, or what is wrong with it and in which line. */
defineProps<{ holds: readonly string[]; noun: string; errors: readonly { line: number; sentence: string }[]; takeId: string }>()
const emit = defineEmits<{ take: []; leave: [] }>()
</script>

<template>
  <div class="sheet">
    <template v-if="errors.length">
      <h2>✕ The file cannot be taken</h2>
      <p v-for="e in errors" :key="`${e.line} ${e.sentence}`" class="wrong">line {{ e.line }}: {{ e.sentence }}</p>
    </template>
    <template v-else>
      <h2>The file holds {{ many(holds.length, noun) }}</h2>
      <p>{{ holds.join(', ') }}</p>
    </template>
    <p class="acts">
      <NButton v-if="!errors.length && holds.length" :id="takeId" type="primary" @click="emit('take')">Take into this project</NButton
      ><NButton @click="emit('leave')">Leave it</NButton>
    </p>
  </div>
</template>
