<script lang="ts">
/** What the rows of a grid are narrowed down and grouped by. */
export interface GridAsks {
  words: string
  filter: string
  group: string
}
</script>

<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { kinds as allKinds } from '../../api/kinds'
import { count } from '../../numbers'
import type { Group } from './window'

/** Over a grid: which kind of record is listed, of what, how many, narrowed down and grouped by what. */
defineProps<{ title: string; total: number; groups: readonly Group[]; problem: string }>()
const kindKey = defineModel<string>('kind', { required: true })
const asks = defineModel<GridAsks>('asks', { required: true })
const emit = defineEmits<{ properties: []; jump: [row: number] }>()
const kinds = allKinds.filter((k) => k.columns.length > 1)
const kind = computed(() => kinds.find((k) => k.key === kindKey.value)!)
const plural = computed(() => kind.value.nouns[0]!.plural)
const capital = (text: string) => text[0]!.toUpperCase() + text.slice(1)
const words = ref('')
const filter = ref('')
const filtering = ref(false)
const group = useLocalStorage('points-group', '')
const options = computed(() => [{ value: '', label: 'not grouped' }, ...kind.value.groups.map((g) => ({ value: g.key, label: `by ${g.label.toLowerCase()}` }))])
/** What is narrowed down by one kind's fields means nothing to another's. */
const grouped = computed(() => (options.value.some((o) => o.value === group.value) ? group.value : ''))
watch(
  [words, filter, filtering, grouped],
  () => (asks.value = { words: filtering.value ? '' : words.value, filter: filtering.value ? filter.value : '', group: grouped.value }),
  { immediate: true },
)
</script>

<template>
  <div class="head">
    <PickOne
      v-model="kindKey"
      :options="kinds.map((k) => ({ value: k.key as string, label: capital(k.nouns[0]!.plural) }))"
      aria-label="What is listed"
      style="width: 130px"
    />
    <h2>of {{ title }}</h2>
    <NButton size="small" @click="emit('properties')">Properties</NButton>
    <FactTag>{{ count(total) }}</FactTag>
    <TextBox v-if="!filtering" v-model="words" lazy class="words" size="small" placeholder="words" :aria-label="`Filter ${plural} by words`" />
    <TextBox v-else v-model="filter" lazy mono class="words" size="small" placeholder="point and temp" :aria-label="`Filter ${plural} by tags`" />
    <NCheckbox v-if="kind.isTagged" v-model:checked="filtering" size="small">tag filter</NCheckbox>
    <span v-if="problem" class="wrong">{{ problem }}</span>
    <PickOne
      :model-value="grouped"
      :options="options"
      aria-label="Group by"
      size="small"
      style="width: 130px"
      @update:model-value="(g: string) => (group = g)"
    />
    <PickOne
      v-if="groups.length > 1"
      :options="groups.map((g) => ({ value: g.from, label: `${g.label} (${g.count})` }))"
      :placeholder="`${groups.length} groups…`"
      aria-label="Go to a group"
      size="small"
      style="width: 130px"
      @update:model-value="(row: number) => emit('jump', row)"
    />
    <span class="space" />
    <slot />
  </div>
</template>

<style scoped>
.words {
  width: 170px;
}
</style>
