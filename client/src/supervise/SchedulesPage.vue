<script setup lang="ts">
import { ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { change, newId, put } from '../shared/api/records'
import { get, type Schemas } from '../shared/api/http'
import { useLoaded, useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import RecordList from '../shared/RecordList.vue'
import { count } from '../shared/numbers'
import RemoveBox from '../plan/RemoveBox.vue'
import SuperviseTabs from './SuperviseTabs.vue'

const store = useStore()
const route = useRoute()
const router = useRouter()
const attempt = useDo()
const { value: schedules } = useLoaded<Schemas['ScheduleLine'][]>(
  () => get('/schedules'),
  () => Math.floor((store.clock?.now ?? 0) / 900000),
  ['schedule', 'place', 'point', 'sequence'],
)
const adding = ref(false)
const removing = ref<string | null>(null)
const name = ref('')
const states = ref('closed · open')
watch(
  () => route.query.add,
  (a) => a && (adding.value = true),
  { immediate: true },
)
async function add() {
  const id = newId('sch')
  const texts = states.value.split(/\s*[·/|;,]\s*/).filter(Boolean)
  const binary = texts.length === 2
  const record = {
    id,
    name: name.value.trim(),
    placeId: store.project!.siteId!,
    kind: binary ? 'binary' : 'multistate',
    stateTexts: texts,
    default: binary ? 0 : 1,
    week: [],
    exceptions: [],
    drives: [],
  }
  if (await attempt(() => change([put('schedule', record, 0)]))) await router.push(`/supervise/schedules/${id}`)
}
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Schedules</h1>
      <span class="pill">{{ count(schedules?.length) }}</span><span class="space" /><SuperviseTabs /><button
        v-if="store.may('engineer')"
        id="add-schedule"
        class="btn main"
        @click="adding = !adding"
      >
        Add a schedule…
      </button>
    </div>
    <form v-if="adding" class="sheet" style="max-width: 560px" @submit.prevent="add">
      <label class="row"><span>Name</span><input id="sch-name" v-model="name" class="field" required autofocus placeholder="Opening hours" /></label>
      <label class="row"><span>States</span><input v-model="states" class="field" required /></label>
      <p class="dim">The first state holds outside all hours.</p>
      <button id="sch-add" class="btn main">Add it</button>
    </form>
    <div v-if="schedules && !schedules.length && !adding" class="sheet empty">
      <h2>No schedule yet</h2>
      <p>
        A schedule says when the building is open, and claims outputs for it. Add one and type
        <span class="mono">tue-fri 9:00-17:30 open</span>.
      </p>
    </div>
    <RecordList
      v-else-if="schedules?.length"
      :items="schedules"
      :id="(s) => s.id"
      :text="(s) => `${s.name} ${s.path} ${s.says}`"
      noun="schedule"
      plural="schedules"
    >
      <template #head>
        <th>Schedule</th>
        <th>Of</th>
        <th>Says now</th>
        <th style="text-align: right">Drives</th>
        <th>Check</th>
        <th></th>
      </template>
      <template #default="{ item: s }">
        <td>
          <RouterLink :to="`/supervise/schedules/${s.id}`"
            ><b>{{ s.name }}</b></RouterLink
          >
        </td>
        <td>{{ s.path || store.project?.siteName }}</td>
        <td class="mono">{{ s.says }}</td>
        <td class="num">{{ s.drives }} {{ s.drives === 1 ? 'output' : 'outputs' }}</td>
        <td>
          <span v-if="s.findings" class="pill amber">▲ {{ s.findings }}</span
          ><span v-else>✓</span>
        </td>
        <td><button v-if="store.may('engineer')" class="btn small" @click="removing = s.id">Remove…</button></td>
      </template>
    </RecordList>
    <RemoveBox v-if="removing" :ids="[removing]" @close="removing = null" />
  </div>
</template>
