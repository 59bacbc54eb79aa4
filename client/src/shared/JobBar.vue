<script setup lang="ts">
import { post, type Schemas } from './api/http'
import { useDo } from './useDo'

/** Long work: how far it is, a stop, and going on after one. */
defineProps<{ job: Schemas['JobView'] }>()
const attempt = useDo()
</script>

<template>
  <div class="sheet" :data-job="job.state" role="status">
    <div class="head">
      <b>{{ job.label }}</b><span>{{ job.message }}</span
      ><span class="space" /><button v-if="job.state === 'running'" class="btn small" @click="attempt(() => post(`/jobs/${job.id}/stop`))">Stop safely</button
      ><button v-if="job.state === 'stopped' || job.state === 'failed'" class="btn small main" @click="attempt(() => post(`/jobs/${job.id}/resume`))">
        Resume
      </button>
    </div>
    <progress :value="job.done" :max="job.total" :aria-label="job.label" style="width: 100%" />
  </div>
</template>
