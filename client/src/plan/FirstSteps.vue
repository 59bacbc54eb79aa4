<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useShown } from '../shared/api/cache'
import { useStore } from '../shared/store'

/** The way from an empty project to a room under control, ticked by the project itself; it goes once all is done or somebody puts it away. */
const store = useStore()
const away = useLocalStorage<string[]>('first-steps-away', [])
const isAway = computed(() => away.value.includes(store.project?.siteId ?? ''))
/** Once all is done, edits ask for it no more. */
const isDone = ref(false)
const { value: steps } = useShown('/first-steps', () => (store.may('engineer') && !isAway.value && !isDone.value ? {} : null), 'all')
const open = computed(() => steps.value?.some((s) => !s.isDone))
watch(open, (o) => o === false && (isDone.value = true), { immediate: true })
/** Where each step is taken. */
const pages: Record<string, string> = {
  building: '/plan?add=1',
  points: '/library',
  controller: '/wire?add=1',
  fit: '/wire',
  sequence: '/program?add=1',
  schedule: '/supervise?add=1',
  send: '/commission',
}
const next = computed(() => steps.value?.find((s) => !s.isDone)?.key)
</script>

<template>
  <section v-if="open" class="sheet steps" aria-label="First steps">
    <div class="head">
      <h2>First steps</h2>
      <span class="dim">they tick themselves</span><span class="space" /><NButton size="small" quaternary @click="away.push(store.project?.siteId ?? '')"
        >Put away</NButton
      >
    </div>
    <ol>
      <li v-for="s in steps" :key="s.key" :class="{ done: s.isDone, next: s.key === next }" :data-step="s.key">
        <span role="img" :aria-label="s.isDone ? 'done' : 'to do'">{{ s.isDone ? '✓' : '○' }}</span>
        <RouterLink :to="pages[s.key] ?? '/plan'">{{ s.title }}</RouterLink> <span class="dim tiny">{{ s.why }}</span>
      </li>
    </ol>
  </section>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(380px, 1fr));
  gap: 3px 16px;
}
.done a {
  color: var(--ink-2);
  text-decoration: none;
}
.next {
  font-weight: 600;
}
</style>
