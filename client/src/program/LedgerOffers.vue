<script setup lang="ts">
import type { Schemas } from '../shared/api/http'

/** What could be written where the caret stands; the caret stays in the text, the keys with it. */
defineProps<{ offers: readonly Schemas['LedgerOffer'][]; at: number }>()
defineEmits<{ take: [offer: Schemas['LedgerOffer']] }>()
</script>

<template>
  <ul class="list" role="listbox" aria-label="What could be written">
    <li v-for="(o, i) in offers" :key="o.insert" role="option" :aria-selected="i === at" :class="{ on: i === at }" @mousedown.prevent="$emit('take', o)">
      <span class="mono">{{ o.insert }}</span> <span class="dim tiny">{{ o.what }}</span>
    </li>
  </ul>
</template>

<style scoped>
.list {
  margin: 0;
  padding: 4px;
  list-style: none;
  border: 1px solid var(--rule);
  border-radius: 7px;
  background: var(--sheet);
  max-height: 190px;
  overflow: auto;
}
.list li {
  padding: 1px 8px;
  cursor: pointer;
  border-radius: 5px;
}
.list .on {
  background: var(--plum-soft);
}
</style>
