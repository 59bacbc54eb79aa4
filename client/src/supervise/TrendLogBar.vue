<script setup lang="ts">
import { ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { change, put, type TrendLog } from '../shared/api/records'
import { count } from '../shared/numbers'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

/** How one trend is logged, and how its log in the controller stands. */
const props = defineProps<{ line: Schemas['TrendLine'] }>()
const emit = defineEmits<{ removed: [] }>()
const store = useStore()
const attempt = useDo()
const removing = ref(false)
const path = { id: props.line.trend.id }
const { value: log, reload } = useShown(
  '/trends/{id}/log',
  () => ({ path }),
  ['trend', 'jobs'],
  () => Math.floor((store.clock?.now ?? 0) / 60000),
)
async function empty() {
  await attempt(() => post('/trends/{id}/empty', { path }))
  await reload()
}
const save = (patch: Partial<TrendLog>) => attempt(() => change([put('trend', { ...props.line.trend, ...patch }, props.line.revision)]))
const modes: { value: Schemas['TrendMode']; label: string }[] = [
  { value: 'interval', label: 'by interval' },
  { value: 'change', label: 'by change' },
]
const fulls: { value: Schemas['WhenFull']; label: string }[] = [
  { value: 'roll', label: 'rolls when full' },
  { value: 'stop', label: 'stops when full' },
]
</script>

<template>
  <p v-if="log?.isInstalled" class="head">
    <FactTag v-if="log.hasStopped" tone="amber">◇ full: stopped after {{ count(log.taken) }} samples</FactTag>
    <span v-else class="dim">The log in the controller holds {{ count(Math.min(log.taken, log.holds)) }} of {{ count(log.holds) }} samples.</span>
    <NButton v-if="log.hasStopped && store.may('technician')" size="small" @click="empty">Empty it and begin again</NButton>
  </p>
  <div v-if="store.may('engineer')" class="head log">
    <h3>{{ line.point }}</h3>
    <PickOne
      :model-value="line.trend.mode"
      :options="modes"
      aria-label="Logged"
      style="width: 118px"
      @update:model-value="(mode: TrendLog['mode']) => save({ mode })"
    />
    <NumberBox
      v-if="line.trend.mode === 'interval'"
      :model-value="line.trend.intervalSeconds"
      unit="s"
      :width="84"
      aria-label="Every"
      @update:model-value="(v) => save({ intervalSeconds: v ?? 0 })"
    />
    <NumberBox
      v-else
      :model-value="line.trend.changeBy"
      :unit="line.changeUnit"
      :width="90"
      aria-label="Of"
      @update:model-value="(v) => save({ changeBy: v ?? 0 })"
    />
    <NumberBox :model-value="line.trend.bufferSize" unit="samples" :width="140" aria-label="Keeps" @update:model-value="(v) => save({ bufferSize: v ?? 0 })" />
    <PickOne
      :model-value="line.trend.whenFull"
      :options="fulls"
      aria-label="When full"
      style="width: 146px"
      @update:model-value="(whenFull: TrendLog['whenFull']) => save({ whenFull })"
    />
    <NButton size="small" @click="removing = true">Remove…</NButton>
  </div>
  <ConfirmRemoval v-if="removing" :ids="[line.trend.id]" @close="(gone) => ((removing = false), gone && emit('removed'))" />
</template>
