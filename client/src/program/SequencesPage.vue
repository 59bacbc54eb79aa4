<script setup lang="ts">
import { ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { change, newId, put } from '../shared/api/records'
import { get, type Schemas } from '../shared/api/http'
import { useLoaded, useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import FindRecord from '../shared/FindRecord.vue'
import RecordList from '../shared/RecordList.vue'
import { count } from '../shared/numbers'
import RemoveBox from '../plan/RemoveBox.vue'

const store = useStore()
const route = useRoute()
const router = useRouter()
const attempt = useDo()
const { value: sequences } = useLoaded<Schemas['SequenceLine'][]>(() => get('/sequences'), undefined, [
  'sequence',
  'point',
  'schedule',
  'controller',
  'fitting',
  'equipment',
  'place',
])
const adding = ref(false)
const removing = ref<string | null>(null)
const name = ref('')
const of = ref('')
const on = ref('')
watch(
  () => route.query.add,
  (a) => a && (adding.value = true),
  { immediate: true },
)
async function add() {
  const id = newId('seq')
  if (
    await attempt(() => {
      if (!of.value)
        throw new Error(
          'Choose the equipment from the list that comes up while you type its name. If there is none, add it under Plan first: a sequence is the logic of one piece of equipment.',
        )
      return change([
        put('sequence', { id, name: name.value.trim(), equipmentId: of.value, controllerId: on.value || null, scanSeconds: 1, blocks: [], commands: [] }, 0),
      ])
    })
  )
    await router.push(`/program/${id}`)
}
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Sequences</h1>
      <span class="pill">{{ count(sequences?.length) }}</span><span class="space" /><RouterLink class="btn" to="/program/help">Help on blocks</RouterLink>
      <button v-if="store.may('engineer')" id="add-sequence" class="btn main" @click="adding = !adding">Add a sequence…</button>
    </div>
    <form v-if="adding" class="sheet" style="max-width: 560px" @submit.prevent="add">
      <label class="row"><span>Name</span><input id="seq-name" v-model="name" class="field" required autofocus placeholder="Kiln room extract" /></label>
      <label class="row"
        ><span>Of equipment</span
        ><FindRecord input-id="seq-of" nouns="equipment" required placeholder="words of equipment or its room" @choose="of = $event?.id ?? ''"
      /></label>
      <label class="row"
        ><span>Runs on</span
        ><FindRecord input-id="seq-controller" nouns="controller" placeholder="words of a controller; may be chosen later" @choose="on = $event?.id ?? ''"
      /></label>
      <button id="seq-add" class="btn main">Add it</button>
    </form>
    <div v-if="sequences && !sequences.length && !adding" class="sheet empty">
      <h2>No sequence yet</h2>
      <p>A sequence is the logic of one piece of equipment: what it reads, how it decides, what it commands.</p>
    </div>
    <RecordList
      v-else-if="sequences?.length"
      :items="sequences"
      :id="(s) => s.id"
      :text="(s) => `${s.name} ${s.path} ${s.controller ?? ''}`"
      noun="sequence"
      plural="sequences"
    >
      <template #head>
        <th>Sequence</th>
        <th>Where</th>
        <th>Runs on</th>
        <th style="text-align: right">Blocks</th>
        <th style="text-align: right">Outputs</th>
        <th>Check</th>
        <th></th>
      </template>
      <template #default="{ item: s }">
        <td>
          <RouterLink :to="`/program/${s.id}`"
            ><b>{{ s.name }}</b></RouterLink
          >
        </td>
        <td>{{ s.path }}</td>
        <td class="mono">{{ s.controller ?? '–' }}</td>
        <td class="num">{{ s.blocks }}</td>
        <td class="num">{{ s.outputs }}</td>
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
