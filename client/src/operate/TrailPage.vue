<script setup lang="ts">
import { computed } from 'vue'
import { get, type Schemas } from '../shared/api/http'
import { siteTime, useLoaded, useStore } from '../shared/store'

const store = useStore()
const zone = computed(() => store.project?.timeZone ?? 'UTC')
const { value: trail } = useLoaded<Schemas['TrailEntry'][]>(
  () => get('/trail'),
  () => store.eventsTick,
  [],
)
const when = (at: number) => new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'short' }).format(at)
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Who did what on site</h1>
      <span class="dim">everything that commanded the installation leaves a trace here</span>
    </div>
    <div v-if="trail && !trail.length" class="sheet empty">Nobody has sent, held, released or acknowledged anything yet.</div>
    <table v-else class="grid sheet">
      <thead>
        <tr>
          <th>Site time</th>
          <th>Who</th>
          <th>What</th>
          <th>Really at</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="t in trail ?? []" :key="t.id">
          <td class="mono">{{ siteTime(t.siteAt, zone, true) }}</td>
          <td>{{ t.who }}</td>
          <td>{{ t.what }}</td>
          <td class="dim">{{ when(t.at) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
