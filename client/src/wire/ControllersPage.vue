<script setup lang="ts">
import { computed, ref, watch } from 'vue'
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
const { value: controllers } = useLoaded<Schemas['ControllerLine'][]>(() => get('/controllers'))
const { value: catalogue } = useLoaded<Schemas['ControllerModel'][]>(() => get('/catalogue'))
const { value: places } = useLoaded<{ id: string; name: string }[]>(async () => {
  const buildings = await get<Place[]>('/buildings')
  const sections = await Promise.all(buildings.map((b) => get<Schemas['Section']>(`/buildings/${b.id}/section`)))
  return sections.flatMap((s) =>
    s.floors.flatMap((f) => f.rooms.map((r) => ({ id: r.room.id, name: `${s.building.name} › ${f.floor.name} › ${r.room.name}` }))),
  )
})
const adding = ref(false)
const removing = ref<string | null>(null)
const name = ref('')
const model = ref('compact-20')
const where = ref('')
const device = ref(0)
watch(
  () => route.query.add,
  (a) => a && (adding.value = true),
  { immediate: true },
)
watch(places, (p) => !where.value && p?.length && (where.value = p[0]!.id))
const nextDevice = computed(() => Math.max(2100, ...(controllers.value ?? []).map((c) => c.controller.deviceInstance ?? 0)) + 1)
watch(nextDevice, (n) => (device.value = n), { immediate: true })
async function add() {
  const id = newId('ctl')
  if (
    await attempt(() =>
      change([put('controller', { id, name: name.value.trim(), placeId: where.value, modelId: model.value, deviceInstance: Number(device.value) }, 0)]),
    )
  ) {
    adding.value = false
    await router.push(`/wire/${id}`)
  }
}
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Panels</h1>
      <span class="pill">{{ controllers?.length ?? 0 }} controllers</span><span class="space" />
      <button v-if="store.may('engineer')" id="add-controller" class="btn main" @click="adding = !adding">Add a controller…</button>
    </div>
    <form v-if="adding" class="sheet form" @submit.prevent="add">
      <label class="row"><span>Name</span><input id="ctl-name" v-model="name" class="field" required maxlength="40" autofocus placeholder="KH-C1" /></label>
      <label class="row"
        ><span>Model</span
        ><select v-model="model" class="field">
          <option v-for="m in catalogue ?? []" :key="m.id" :value="m.id">{{ m.name }}</option>
        </select></label
      >
      <label class="row"
        ><span>Hangs in</span
        ><select v-model="where" class="field" required>
          <option v-for="p in places ?? []" :key="p.id" :value="p.id">{{ p.name }}</option>
        </select></label
      >
      <label class="row"><span>Device instance</span><input v-model="device" class="field mono" type="number" min="0" max="4194302" /></label>
      <button id="ctl-add" class="btn main">Add it</button>
      <p v-if="!places?.length" class="wrong">Add a room first: a panel hangs somewhere.</p>
    </form>
    <div v-if="controllers && !controllers.length && !adding" class="sheet empty">
      <h2>No controller yet</h2>
      <p>A controller reads sensors, runs sequences and drives outputs. Add one and fit the points onto its terminals.</p>
    </div>
    <table v-else-if="controllers?.length" class="grid sheet">
      <thead>
        <tr>
          <th>Name</th>
          <th>Where</th>
          <th>Model</th>
          <th style="text-align: right">Terminals</th>
          <th style="text-align: right">Values</th>
          <th style="text-align: right">Device</th>
          <th>On the site</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="c in controllers" :key="c.controller.id">
          <td>
            <RouterLink :to="`/wire/${c.controller.id}`"
              ><b>{{ c.controller.name }}</b></RouterLink
            >
          </td>
          <td>{{ c.path }}</td>
          <td>{{ c.model }}</td>
          <td class="num">{{ c.used }} of {{ c.terminals }}</td>
          <td class="num">{{ c.values }}</td>
          <td class="num">{{ c.controller.deviceInstance }}</td>
          <td><span v-if="c.installed" class="pill moss">● runs</span><span v-else class="pill amber">○ nothing sent yet</span></td>
          <td><button v-if="store.may('engineer')" class="btn small" @click="removing = c.controller.id">Remove…</button></td>
        </tr>
      </tbody>
    </table>
    <RemoveBox v-if="removing" :ids="[removing]" @close="removing = null" />
  </div>
</template>

<style scoped>
.form {
  max-width: 560px;
}
</style>
