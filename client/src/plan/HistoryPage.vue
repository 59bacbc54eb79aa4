<script setup lang="ts">
import { ref, watch } from 'vue'
import { get, post, type Schemas } from '../shared/api/http'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import PlanTabs from './PlanTabs.vue'

const store = useStore()
const attempt = useDo()
const lines = ref<Schemas['HistoryLine'][]>([])
const more = ref(true)
async function load(below?: number) {
  const page = await get<Schemas['HistoryLine'][]>(`/history${below ? `?below=${below}` : ''}`)
  lines.value = below ? [...lines.value, ...page] : page
  more.value = page.length === 100
}
watch(
  () => store.lastChange?.revision,
  () => void load(),
  { immediate: true },
)
const when = (at: number) => new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'short' }).format(at)
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Project history</h1>
      <span class="dim">every edit ever accepted, newest first; any of them can be taken back if nothing later rests on it</span>
      <span class="space" /><PlanTabs />
    </div>
    <table class="grid sheet">
      <thead>
        <tr>
          <th style="text-align: right">Revision</th>
          <th>What</th>
          <th>Who</th>
          <th>When</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="l in lines" :key="l.revision">
          <td class="num">{{ l.revision }}</td>
          <td>
            <span v-if="l.kind !== 'edit'" class="pill">{{ l.kind === 'undo' ? '↶ undo' : '↷ redo' }}</span> {{ l.label }}
          </td>
          <td>{{ l.author }}</td>
          <td class="dim">{{ when(l.at) }}</td>
          <td>
            <button v-if="store.may('engineer')" class="btn small" @click="attempt(() => post(`/history/${l.revision}/undo`), `Undid: ${l.label}`)">
              Take back
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <button v-if="more" class="btn" @click="load(lines.at(-1)?.revision)">Older</button>
  </div>
</template>
