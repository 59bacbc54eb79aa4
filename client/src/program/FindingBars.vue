<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../shared/api/http'

/** The findings on a sequence: the gravest at once, all of them where somebody asks, so that they never hide the logic. */
const props = defineProps<{ findings: readonly Schemas['FindingView'][]; may: boolean }>()
const emit = defineEmits<{ fix: [finding: Schemas['FindingView'], which: number] }>()
const FEW = 6
const all = ref(false)
const grave = { high: 0, medium: 1, low: 2 }
const sorted = computed(() => [...props.findings].sort((a, b) => grave[a.severity] - grave[b.severity]))
const shown = computed(() => (all.value ? sorted.value : sorted.value.slice(0, FEW)))
</script>

<template>
  <section class="bars" aria-label="Findings">
    <div v-for="f in shown" :key="f.key" class="bar" :class="f.severity">
      <b>{{ f.what }}</b> <span class="dim">{{ f.why }}</span>
      <NButton v-for="(way, i) in may ? f.fixes : []" :key="way.label" size="small" @click="emit('fix', f, i)">{{ way.label }}</NButton>
    </div>
    <NButton v-if="sorted.length > FEW" text type="info" :aria-expanded="all" @click="all = !all">{{
      all ? `Show the gravest ${FEW} only` : `Show ${sorted.length - FEW} more`
    }}</NButton>
  </section>
</template>

<style scoped>
.bars {
  display: grid;
  gap: 8px;
  justify-items: start;
  max-height: 24vh;
  overflow: auto;
}
.bar {
  width: 100%;
}
</style>
