<script setup lang="ts" generic="T">
import { useIntersectionObserver } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { count } from './numbers'
import { matching } from './words'

/** A list of records of one sort: a filter by words where there are many, and rows drawn as far as somebody scrolls. */
const props = defineProps<{ items: T[]; id: (item: T) => string; text: (item: T) => string; noun: string; plural: string }>()
const step = 100
const few = 15
const words = ref('')
const drawn = ref(step)
const end = ref<HTMLElement>()
const shown = computed(() => matching(props.items, props.text, words.value))
watch(words, () => (drawn.value = step))
useIntersectionObserver(end, ([seen]) => seen?.isIntersecting && (drawn.value += step), { rootMargin: '600px' })
</script>

<template>
  <div v-if="items.length > few" class="head filter">
    <input v-model="words" class="field" type="search" placeholder="filter by words of name or place" :aria-label="`Filter the ${plural}`" />
    <span class="dim" role="status">{{ words.trim() ? `${count(shown.length)} of ${count(items.length)} ${plural}` : '' }}</span>
  </div>
  <p v-if="!shown.length" class="dim">No {{ noun }} has all of these words. <button class="link" @click="words = ''">Show all</button></p>
  <table v-else class="grid sheet">
    <thead>
      <tr>
        <slot name="head" />
      </tr>
    </thead>
    <tbody>
      <tr v-for="item in shown.slice(0, drawn)" :key="id(item)">
        <slot :item="item" />
      </tr>
    </tbody>
  </table>
  <p v-if="shown.length > drawn" ref="end" class="dim">
    {{ count(shown.length - drawn) }} more below · <button class="link" @click="drawn += step">show more</button>
  </p>
</template>

<style scoped>
.filter .field {
  width: 320px;
  max-width: 100%;
}
</style>
