<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../shared/api/http'
import { count } from '../shared/numbers'
import { matching } from '../shared/words'

/** Which trends a chart shows: those that are on come first, so that they can be taken off again; then the rest, as many as can be read. */
const props = defineProps<{ trends: readonly Schemas['TrendLine'][] }>()
const shown = defineModel<string[]>('shown', { required: true })
const words = ref('')
const MOST = 300
/** How many a chart shows at once. */
const AT_ONCE = 12
const found = computed(() => matching(props.trends, (t) => `${t.path} ${t.point}`, words.value))
const list = computed(() => [
  ...props.trends.filter((t) => shown.value.includes(t.trend.id)),
  ...found.value.filter((t) => !shown.value.includes(t.trend.id)).slice(0, MOST),
])
const parts = (path: string) => path.split(' › ')
</script>

<template>
  <div class="sheet picker">
    <TextBox v-model="words" placeholder="words of a trend" aria-label="Find a trend" />
    <NCheckboxGroup :value="shown" class="list" @update:value="(v: (string | number)[]) => (shown = (v as string[]).slice(-AT_ONCE))">
      <NCheckbox v-for="t in list" :key="t.trend.id" :value="t.trend.id" class="pick"
        ><span :title="t.path"
          ><b>{{ parts(t.path).at(-1) }}</b> {{ t.point }} <span class="dim tiny place">{{ parts(t.path).slice(0, -1).join(' › ') }}</span></span
        ></NCheckbox
      >
    </NCheckboxGroup>
    <p v-if="found.length > MOST" class="dim">{{ count(found.length) }} match; the first {{ MOST }} are listed. Type more words.</p>
    <p v-if="!trends.length" class="dim">No trend yet. Open a point’s dossier and choose “Trend it”.</p>
  </div>
</template>

<style scoped>
.picker {
  display: grid;
  grid-template-rows: auto 1fr auto;
  gap: 8px;
  min-height: 0;
}
.list {
  overflow: auto;
  display: grid;
  grid-auto-rows: max-content;
  gap: 3px;
  min-height: 0;
}
.place {
  display: block;
}
</style>
