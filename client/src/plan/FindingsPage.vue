<script setup lang="ts">
import { useRouter } from 'vue-router'
import { get, post, type Schemas } from '../shared/api/http'
import { useLoaded, useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import PlanTabs from './PlanTabs.vue'

const store = useStore()
const router = useRouter()
const attempt = useDo()
const { value: findings } = useLoaded<Schemas['FindingView'][]>(() => get('/findings'))
const mark: Record<string, string> = { high: '✕ high', medium: '▲ medium', low: '● low' }
function open(f: Schemas['FindingView']) {
  if (f.noun === 'sequence') void router.push(`/program/${f.recordId}`)
  else if (f.noun === 'schedule') void router.push(`/supervise/schedules/${f.recordId}`)
  else store.selected = f.recordId
}
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Findings</h1>
      <span class="pill">{{ findings?.length ?? 0 }}</span><span class="dim">what the project’s checks want you to see; they run with every edit</span
      ><span class="space" /><PlanTabs />
    </div>
    <div v-if="findings && !findings.length" class="sheet empty">✓ Nothing to mend. Every check passes.</div>
    <table v-else class="grid sheet">
      <thead>
        <tr>
          <th>Severity</th>
          <th>What</th>
          <th>Where</th>
          <th>Why it matters</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="f in findings ?? []" :key="f.key">
          <td :class="{ wrong: f.severity === 'high' }" style="white-space: nowrap">{{ mark[f.severity] }}</td>
          <td>
            <b>{{ f.what }}</b>
          </td>
          <td>{{ f.path }}</td>
          <td class="dim">{{ f.why }}</td>
          <td style="white-space: nowrap">
            <button class="btn small" @click="open(f)">Show</button>
            <button
              v-if="f.fix && store.may('engineer')"
              class="btn small main"
              @click="attempt(() => post('/findings/fix', { key: f.key, recordId: f.recordId }), f.fix)"
            >
              {{ f.fix }}
            </button>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
