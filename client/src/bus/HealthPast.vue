<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, get, type Schemas } from '../shared/api/http'
import { useStore } from '../shared/store'
import TrendChart from '../supervise/TrendChart.vue'

/** What a bus device said of itself over time, whenever it was looked at. */
const props = defineProps<{ device: string; counts: boolean; looked?: number | string | null }>()
const store = useStore()
const zone = computed(() => store.project?.timeZone ?? 'UTC')
const what = ref('drives')
const DAY = 86_400_000
const span = ref(DAY)
const to = ref(0)
const data = ref<Schemas['TrendData'][]>([])
const whats = computed(() => [
  { value: 'drives', label: 'Drives' },
  ...(props.counts
    ? [
        { value: 'hours', label: 'Hours' },
        { value: 'cycles', label: 'Cycles' },
        { value: 'energy', label: 'Energy' },
      ]
    : []),
  { value: 'failures', label: 'Bus lost' },
])
let turn = 0
watch(
  [() => props.device, () => props.looked, what, span, () => !!store.clock],
  async () => {
    if (!store.clock) return
    const mine = ++turn
    const end = store.clock.now + 1000
    const got = await get('/bus/work/{id}/history', {
      path: { id: props.device },
      query: { what: what.value, from: end - span.value, to: end, columns: 300 },
    }).catch(() => [])
    if (mine === turn) [data.value, to.value] = [got, end]
  },
  { immediate: true },
)
const several = computed(() => data.value.filter((d) => d.at.length > 1))
</script>

<template>
  <h3>Over time</h3>
  <div class="choosing">
    <PickOne v-model="what" :options="whats" aria-label="What over time" size="small" style="width: 116px" /><PickOne
      v-model="span"
      :options="[
        { value: DAY, label: '1 day' },
        { value: 7 * DAY, label: '1 week' },
        { value: 90 * DAY, label: '90 days' },
      ]"
      aria-label="How long"
      size="small"
      style="width: 116px"
    />
  </div>
  <div v-if="several.length" class="plot"><TrendChart :data="several" :from="to - span" :to="to" :zone="zone" /></div>
  <p v-else class="dim">It shows once the device was looked at twice. Let all be looked at every so many minutes, above the list.</p>
  <p><LinkButton size="small" :href="api(`/bus/work/${device}/history.csv`)">As CSV</LinkButton></p>
</template>

<style scoped>
.plot {
  height: 190px;
  display: grid;
}
</style>
