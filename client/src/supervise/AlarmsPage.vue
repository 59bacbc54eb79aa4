<script setup lang="ts">
import { computed, ref } from 'vue'
import { change, newId, put } from '../shared/api/records'
import { get, type Schemas } from '../shared/api/http'
import { useLoaded, useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import FindRecord from '../shared/FindRecord.vue'
import RecordList from '../shared/RecordList.vue'
import { count } from '../shared/numbers'
import RemoveBox from '../plan/RemoveBox.vue'
import AlarmCard from '../operate/AlarmCard.vue'
import SuperviseTabs from './SuperviseTabs.vue'

const store = useStore()
const attempt = useDo()
const past = ref(false)
const { value: all } = useLoaded<Schemas['AlarmView'][]>(
  () => (past.value ? get('/alarms?all=true') : null),
  () => [past.value, store.eventsTick],
  ['alarm', 'point'],
)
const { value: rules } = useLoaded<Schemas['AlarmRuleLine'][]>(
  () => get('/alarm-rules'),
  () => store.eventsTick,
  ['alarm', 'point', 'place', 'equipment'],
)
const list = computed(() => (past.value ? (all.value ?? []) : store.alarms))
const adding = ref(false)
const editing = ref<Schemas['AlarmRuleLine'] | null>(null)
const removing = ref<string | null>(null)
const form = ref({ name: '', pointId: '', high: '', low: '', deadband: '0.5', delay: '60', back: '60', advice: '' })
const state: Record<string, string> = { normal: '● normal', fault: '✕ fault', highLimit: '▲ high', lowLimit: '▼ low', offnormal: '▲ off normal' }

function edit(r: Schemas['AlarmRuleLine']) {
  editing.value = r
  adding.value = true
  form.value = {
    name: r.rule.name,
    pointId: r.rule.pointId,
    high: String(r.rule.highLimit ?? ''),
    low: String(r.rule.lowLimit ?? ''),
    deadband: String(r.rule.deadband ?? 0),
    delay: String(r.rule.delaySeconds ?? 0),
    back: String(r.rule.delayNormalSeconds ?? 0),
    advice: r.rule.advice ?? '',
  }
}
async function save() {
  const f = form.value
  const number = (t: string) => (t === '' ? null : Number(t))
  const record = {
    id: editing.value?.rule.id ?? newId('alarm'),
    name: f.name.trim(),
    pointId: f.pointId,
    highLimit: number(f.high),
    lowLimit: number(f.low),
    deadband: Number(f.deadband),
    delaySeconds: Number(f.delay),
    delayNormalSeconds: Number(f.back),
    advice: f.advice.trim() || null,
  }
  const done = await attempt(async () => {
    if (!f.pointId) throw new Error('Choose the point from the list that comes up while you type its name.')
    await change([put('alarm', record, Number(editing.value?.revision ?? 0))])
  }, 'Saved; it is watched once its controller has been sent')
  if (done) {
    adding.value = false
    editing.value = null
  }
}
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Alarms</h1>
      <span class="tabs"
        ><button :class="{ on: !past }" @click="past = false">Need somebody</button
        ><button :class="{ on: past }" @click="past = true">All that came</button></span
      ><span class="space" /><SuperviseTabs />
    </div>
    <div v-if="!list.length" class="sheet empty"><b>✓ Nothing is in alarm, and everything is acknowledged.</b></div>
    <div class="cards"><AlarmCard v-for="a in list" :key="a.id" :alarm="a" /></div>
    <div class="head">
      <h2>What is watched</h2>
      <span class="pill">{{ count(rules?.length) }}</span><span class="space" /><button
        v-if="store.may('engineer')"
        id="add-alarm"
        class="btn main"
        @click="((adding = !adding), (editing = null), (form.pointId = ''))"
      >
        Add an alarm…
      </button>
    </div>
    <form v-if="adding" class="sheet form" @submit.prevent="save">
      <label class="row"
        ><span>Point</span
        ><FindRecord
          :key="editing?.rule.id"
          input-id="alarm-point"
          nouns="point"
          :says="editing ? `${editing.path} › ${editing.point}` : ''"
          required
          placeholder="words of an analog point"
          :disabled="!!editing"
          @choose="form.pointId = $event?.id ?? ''"
      /></label>
      <label class="row"><span>Name</span><input id="alarm-name" v-model="form.name" class="field" required placeholder="Kiln room too warm" /></label>
      <label class="row"><span>High limit</span><input id="alarm-high" v-model="form.high" class="field mono" type="number" step="any" /></label>
      <label class="row"><span>Low limit</span><input v-model="form.low" class="field mono" type="number" step="any" /></label>
      <label class="row"><span>Deadband</span><input v-model="form.deadband" class="field mono" type="number" step="any" min="0" /></label>
      <label class="row"
        ><span>Delay to alarm</span><span><input id="alarm-delay" v-model="form.delay" class="field mono" type="number" min="0" /> s</span></label
      >
      <label class="row"
        ><span>Delay back</span><span><input v-model="form.back" class="field mono" type="number" min="0" /> s</span></label
      >
      <label class="row"
        ><span>Advice</span><input id="alarm-advice" v-model="form.advice" class="field" maxlength="500" placeholder="what whoever sees it should do"
      /></label>
      <p>
        <button id="alarm-save" class="btn main">{{ editing ? 'Save' : 'Add it' }}</button>
        <button type="button" class="btn" @click="adding = false">Close</button>
      </p>
    </form>
    <RecordList v-if="rules?.length" :items="rules" :id="(r) => r.rule.id" :text="(r) => `${r.rule.name} ${r.point} ${r.path}`" noun="alarm" plural="alarms">
      <template #head>
        <th>Alarm</th>
        <th>Point</th>
        <th style="text-align: right">Low</th>
        <th style="text-align: right">High</th>
        <th style="text-align: right">Deadband</th>
        <th style="text-align: right">Delay</th>
        <th style="text-align: right">Back</th>
        <th>State</th>
        <th></th>
      </template>
      <template #default="{ item: r }">
        <td>
          <b>{{ r.rule.name }}</b>
        </td>
        <td>
          {{ r.point }} <span class="dim where">{{ r.path }}</span>
        </td>
        <td class="num">{{ r.rule.lowLimit ?? '–' }} {{ r.rule.lowLimit != null ? r.unit : '' }}</td>
        <td class="num">{{ r.rule.highLimit ?? '–' }} {{ r.rule.highLimit != null ? r.unit : '' }}</td>
        <td class="num">{{ r.rule.deadband }} {{ r.deadbandUnit }}</td>
        <td class="num">{{ r.rule.delaySeconds }} s</td>
        <td class="num">{{ r.rule.delayNormalSeconds }} s</td>
        <td>
          <span class="pill" :class="{ crimson: r.state && r.state !== 'normal', moss: r.state === 'normal' }">{{
            r.state ? state[r.state] : '○ not installed'
          }}</span>
        </td>
        <td style="white-space: nowrap">
          <button class="btn small" @click="store.selected = r.rule.id">Why?</button>
          <template v-if="store.may('engineer')"
            ><button class="btn small" @click="edit(r)">Change</button> <button class="btn small" @click="removing = r.rule.id">Remove…</button></template
          >
        </td>
      </template>
    </RecordList>
    <RemoveBox v-if="removing" :ids="[removing]" @close="removing = null" />
  </div>
</template>

<style scoped>
.cards {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(320px, 1fr));
  gap: 10px;
}
.form {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(330px, 1fr));
  gap: 0 20px;
}
.where {
  display: block;
  font-size: 12px;
}
</style>
