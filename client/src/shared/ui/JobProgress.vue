<script setup lang="ts">
import { computed } from 'vue'
import { post, type Schemas } from '../api/http'
import { useStore } from '../store'
import { useDo } from '../useDo'

/** Long work: how far it is, a stop, and going on after one. */
const props = defineProps<{ job: Schemas['JobView'] }>()
const store = useStore()
const attempt = useDo()
const path = computed(() => ({ path: { id: props.job.id } }))
const isRunning = computed(() => props.job.state === 'running')
const isResting = computed(() => store.may('technician') && ['stopped', 'failed', 'interrupted'].includes(props.job.state))
const percent = computed(() => Math.round((100 * props.job.done) / Math.max(1, props.job.total)))
async function drop() {
  if (await attempt(() => post('/jobs/{id}/drop', path.value), 'Dropped')) store.jobs.delete(props.job.id)
}
</script>

<template>
  <div class="sheet job" :data-job="job.state" role="status">
    <b>{{ job.label }}</b>
    <NProgress :percentage="percent" :show-indicator="false" :height="6" :aria-label="job.label" />
    <span>{{ job.message }}</span>
    <NButton v-if="isRunning && store.may('technician')" size="small" @click="attempt(() => post('/jobs/{id}/stop', path))">Stop safely</NButton>
    <NButton v-if="isResting" size="small" type="primary" @click="attempt(() => post('/jobs/{id}/resume', path))">Resume</NButton>
    <NButton v-if="isResting" size="small" @click="drop">Drop</NButton>
  </div>
</template>

<style scoped>
.job {
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 6px 14px;
}
.job > b {
  white-space: nowrap;
}
.job > :nth-child(2) {
  flex: 1;
  min-width: 80px;
}
</style>
