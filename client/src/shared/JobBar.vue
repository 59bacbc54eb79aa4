<script setup lang="ts">
import { computed } from 'vue'
import { post, type Schemas } from './api/http'
import { useStore } from './store'
import { useDo } from './useDo'

/** Long work: how far it is, a stop, and going on after one. */
const props = defineProps<{ job: Schemas['JobView'] }>()
const store = useStore()
const attempt = useDo()
const isResting = computed(() => store.may('technician') && ['stopped', 'failed', 'interrupted'].includes(props.job.state))
async function drop() {
  if (await attempt(() => post(`/jobs/${props.job.id}/drop`), 'Dropped')) store.jobs.delete(props.job.id)
}
</script>

<template>
  <div class="sheet" :data-job="job.state" role="status">
    <div class="head">
      <b>{{ job.label }}</b><span>{{ job.message }}</span
      ><span class="space" /><button
        v-if="job.state === 'running' && store.may('technician')"
        class="btn small"
        @click="attempt(() => post(`/jobs/${job.id}/stop`))"
      >
        Stop safely</button
      ><button v-if="isResting" class="btn small main" @click="attempt(() => post(`/jobs/${job.id}/resume`))">Resume</button
      ><button v-if="isResting" class="btn small" @click="drop">Drop</button>
    </div>
    <progress :value="job.done" :max="job.total" :aria-label="job.label" style="width: 100%" />
  </div>
</template>
