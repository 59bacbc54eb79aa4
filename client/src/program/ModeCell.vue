<script setup lang="ts">
import type { Source } from '../shared/api/records'
import type { SequenceWork } from './useSequence'

/** What an output says in a mode: a source or a constant, released on purpose, or not said yet. */
const props = defineProps<{ work: SequenceWork; says: string; label: string; pin: string }>()
const emit = defineEmits<{ say: [says: Source | 'released' | null] }>()
type Item = { key: string; label: string; sub: string; says: Source | 'released' }
const released: Item = { key: 'released', label: 'released', sub: 'says nothing: weaker claims and the fallback hold', says: 'released' }
async function find(text: string): Promise<Item[]> {
  const found = text.trim() ? await props.work.sources(text) : []
  const items = found.map((g, i): Item => ({ key: `${i}`, label: g.name, sub: g.path, says: g.source }))
  return 'released'.startsWith(text.trim().toLowerCase()) ? [released, ...items] : items
}
</script>

<template>
  <span class="cell" :class="{ open: !says, released: says === 'released' }"
    ><ComboBox
      :find="find"
      :says="says"
      :disabled="!work.may.value"
      after="revert"
      at-once
      :aria-label="label"
      :data-pin="pin"
      placeholder="▲ not said"
      none="Nothing has these words. Try fewer, or a constant such as 21 °C, on or off."
      @choose="(item) => emit('say', (item?.says as Source | 'released') ?? null)"
  /></span>
</template>

<style scoped>
.released :deep(input) {
  font-style: italic;
  color: var(--ink-2);
}
</style>
