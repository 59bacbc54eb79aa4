<script setup lang="ts">
import type { Schemas } from '../shared/api/http'
import { count } from '../shared/numbers'

/** What would be transferred, part by part with its reason, in bytes and in time. */
defineProps<{ plan: Schemas['SendPlan'] }>()
const kilobytes = (bytes: number) => `${count(Math.max(1, Math.round(bytes / 1024)))} kB`
</script>

<template>
  <div>
    <NTable size="small" :bordered="false" class="close">
      <tbody>
        <tr v-for="l in plan.lines" :key="l.key" :data-part="l.key">
          <td>{{ l.goes ? '→' : '=' }}</td>
          <td>
            <b>{{ l.name }}</b> <span class="mono">{{ l.version }}</span>
          </td>
          <td class="num">{{ kilobytes(l.bytes) }}</td>
          <td class="dim">{{ l.goes ? l.why : `stays: ${l.why.replace('the same is there: ', '')}` }}</td>
        </tr>
      </tbody>
    </NTable>
    <p v-for="t in plan.troubles" :key="t" class="bar crimson">{{ t }}</p>
    <p class="dim">
      <template v-if="plan.bytes"
        ><b>{{ kilobytes(plan.bytes) }}</b> go over in {{ plan.seconds < 1 ? 'under a second' : `about ${plan.seconds} s` }}. </template
      ><template v-else>Nothing goes over. </template>
      <template v-if="plan.restarts"
        >Then it starts again, which takes up to {{ plan.startSeconds }} s of site time; its outputs are at rest meanwhile. </template
      ><template v-else-if="plan.bytes">It changes over between two scans; no output rests. </template>
      <template v-if="plan.memoryKilobytes">It has {{ count(plan.usedKilobytes) }} of {{ count(plan.memoryKilobytes) }} kB in use then.</template>
    </p>
  </div>
</template>

<style scoped>
.num {
  text-align: right;
  white-space: nowrap;
}
</style>
