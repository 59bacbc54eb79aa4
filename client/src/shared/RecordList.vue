<script setup lang="ts" generic="T">
import { useIntersectionObserver } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { count } from './numbers'

/** A list of records of one sort: a filter by words where there are many (what holds them as they were typed comes first), and rows drawn as far as somebody scrolls. */
const props = defineProps<{ items: T[]; id: (item: T) => string; text: (item: T) => string; noun: string; plural: string }>()
const step = 100
const few = 15
const words = ref('')
const drawn = ref(step)
const end = ref<HTMLElement>()
const matching = computed(() => {
  const wanted = words.value.toLowerCase().split(/\s+/).filter(Boolean)
  if (!wanted.length) return props.items
  const phrase = wanted.join(' ')
  const [exact, loose]: [T[], T[]] = [[], []]
  for (const item of props.items) {
    const text = props.text(item).toLowerCase().replaceAll(' › ', ' ')
    if (text.includes(phrase)) exact.push(item)
    else if (wanted.every((w) => text.includes(w))) loose.push(item)
  }
  return [...exact, ...loose]
})
watch(words, () => (drawn.value = step))
useIntersectionObserver(end, ([seen]) => seen?.isIntersecting && (drawn.value += step), { rootMargin: '600px' })
</script>

<template>
  <div v-if="items.length > few" class="head filter">
    <input v-model="words" class="field" type="search" placeholder="filter by words of name or place" :aria-label="`Filter the ${plural}`" />
    <span class="dim" role="status">{{ words.trim() ? `${count(matching.length)} of ${count(items.length)} ${plural}` : '' }}</span>
  </div>
  <p v-if="!matching.length" class="dim">No {{ noun }} has all of these words. <button class="link" @click="words = ''">Show all</button></p>
  <table v-else class="grid sheet">
    <thead>
      <tr>
        <slot name="head" />
      </tr>
    </thead>
    <tbody>
      <tr v-for="item in matching.slice(0, drawn)" :key="id(item)">
        <slot :item="item" />
      </tr>
    </tbody>
  </table>
  <p v-if="matching.length > drawn" ref="end" class="dim">
    {{ count(matching.length - drawn) }} more below · <button class="link" @click="drawn += step">show more</button>
  </p>
</template>

<style scoped>
.filter .field {
  width: 320px;
  max-width: 100%;
}
</style>
