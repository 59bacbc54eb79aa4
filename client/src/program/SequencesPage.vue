<script setup lang="ts">
import { ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { change, newId, put, type Place } from '../shared/api/records'
import { get, type Schemas } from '../shared/api/http'
import { useLoaded, useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import RemoveBox from '../plan/RemoveBox.vue'

const store = useStore()
const route = useRoute()
const router = useRouter()
const attempt = useDo()
const { value: sequences } = useLoaded<Schemas['SequenceLine'][]>(() => get('/sequences'))
const { value: controllers } = useLoaded<Schemas['ControllerLine'][]>(() => get('/controllers'))
const { value: equipment } = useLoaded<{ id: string; name: string }[]>(async () => {
  const buildings = await get<Place[]>('/buildings')
  const sections = await Promise.all(buildings.map((b) => get<Schemas['Section']>(`/buildings/${b.id}/section`)))
  return sections.flatMap((s) =>
    s.floors.flatMap((f) => f.rooms.flatMap((r) => r.equipment.map((e) => ({ id: e.equipment.id, name: `${r.room.name} · ${e.equipment.name}` })))),
  )
})
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
watch(equipment, (e) => !of.value && e?.length && (of.value = e[0]!.id))
watch(controllers, (c) => !on.value && c?.length && (on.value = c[0]!.controller.id))
async function add() {
  const id = newId('seq')
  if (
    await attempt(() =>
      change([
        put('sequence', { id, name: name.value.trim(), equipmentId: of.value, controllerId: on.value || null, scanSeconds: 1, blocks: [], commands: [] }, 0),
      ]),
    )
  )
    await router.push(`/program/${id}`)
}
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Sequences</h1>
      <span class="pill">{{ sequences?.length ?? 0 }}</span><span class="space" /><RouterLink class="btn" to="/program/help">Help on blocks</RouterLink>
      <button v-if="store.may('engineer')" id="add-sequence" class="btn main" @click="adding = !adding">Add a sequence…</button>
    </div>
    <form v-if="adding" class="sheet" style="max-width: 560px" @submit.prevent="add">
      <label class="row"><span>Name</span><input id="seq-name" v-model="name" class="field" required autofocus placeholder="Kiln room extract" /></label>
      <label class="row"
        ><span>Of equipment</span
        ><select v-model="of" class="field" required>
          <option v-for="e in equipment ?? []" :key="e.id" :value="e.id">{{ e.name }}</option>
        </select></label
      >
      <label class="row"
        ><span>Runs on</span
        ><select id="seq-controller" v-model="on" class="field">
          <option value="">not chosen yet</option>
          <option v-for="c in controllers ?? []" :key="c.controller.id" :value="c.controller.id">{{ c.controller.name }}</option>
        </select></label
      >
      <button id="seq-add" class="btn main">Add it</button>
      <p v-if="!equipment?.length" class="wrong">Add equipment first: a sequence is the logic of one piece of it.</p>
    </form>
    <div v-if="sequences && !sequences.length && !adding" class="sheet empty">
      <h2>No sequence yet</h2>
      <p>A sequence is the logic of one piece of equipment: what it reads, how it decides, what it commands.</p>
    </div>
    <table v-else-if="sequences?.length" class="grid sheet">
      <thead>
        <tr>
          <th>Sequence</th>
          <th>Where</th>
          <th>Runs on</th>
          <th style="text-align: right">Blocks</th>
          <th style="text-align: right">Outputs</th>
          <th>Check</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="s in sequences" :key="s.id">
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
        </tr>
      </tbody>
    </table>
    <RemoveBox v-if="removing" :ids="[removing]" @close="removing = null" />
  </div>
</template>
