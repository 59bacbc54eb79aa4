<script setup lang="ts">
import type { Schemas } from '../api/http'

/** An explanation, fact under fact, in the server's own words. */
defineProps<{ because: Schemas['Because']; depth?: number }>()
</script>

<template>
  <div class="bar because" :class="because.weight" :style="{ marginLeft: depth ? '10px' : 0 }">
    <span :class="{ outranked: because.weight === 'outranked', dim: because.weight !== 'decides' }">{{ because.fact }}</span>
    <BecauseTree v-for="(under, i) in because.under" :key="i" :because="under" :depth="(depth ?? 0) + 1" />
  </div>
</template>
