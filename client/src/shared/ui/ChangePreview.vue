<script setup lang="ts">
import { count } from '../numbers'

/** What would change, line by line, before it is made as one step that undo takes back. */
defineProps<{
  title: string
  lines: readonly { what?: string; before?: string; after?: string; where?: string }[]
  total: number
  make: string
  nothing?: string
  busy?: boolean
}>()
const emit = defineEmits<{ make: []; close: [] }>()
</script>

<template>
  <ModalBox :label="title" wide @close="emit('close')">
    <h2>{{ title }}</h2>
    <slot />
    <p v-if="!lines.length">{{ nothing ?? 'Nothing would change.' }}</p>
    <div class="lines" tabindex="0" role="group" aria-label="What would change">
      <p v-for="(l, i) in lines" :key="i">
        <span v-if="l.what">{{ l.what }}</span> <span v-if="l.after !== undefined" class="mono">{{ l.before }} → {{ l.after }}</span>
        <span class="dim"> {{ l.where }}</span>
      </p>
      <p v-if="total > lines.length" class="dim">The first {{ count(lines.length) }} of {{ count(total) }} are shown; all of them are made.</p>
    </div>
    <p class="acts">
      <NButton id="make-changes" type="primary" :disabled="!lines.length" :loading="busy" @click="emit('make')">{{ make }}</NButton>
      <NButton @click="emit('close')">Leave</NButton>
    </p>
  </ModalBox>
</template>

<style scoped>
.lines {
  max-height: 50vh;
  overflow: auto;
  font-size: 13px;
}
</style>
