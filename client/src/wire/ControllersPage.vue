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
const { value: controllers } = useLoaded<Schemas['ControllerLine'][]>(() => get('/controllers'), undefined, ['controller', 'fitting', 'place'])
const { value: catalogue } = useLoaded<Schemas['ControllerModel'][]>(() => get('/catalogue'), undefined, [])
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
const { value: free } = useLoaded<Record<string, number>>(() => get('/kinds/controller/free'), undefined, ['controller'])
watch(free, (f) => f && (device.value = f.deviceInstance ?? 0), { immediate: true })
async function add() {
  const id = newId('ctl')
  if (
    await attempt(() => {
      if (!where.value)
        throw new Error('Choose the room it hangs in from the list that comes up while you type its name. If there is none, add a room under Plan first.')
      return change([put('controller', { id, name: name.value.trim(), placeId: where.value, modelId: model.value, deviceInstance: Number(device.value) }, 0)])
    })
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
      <span class="pill">{{ count(controllers?.length) }} controllers</span><span class="space" />
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
        ><span>Hangs in</span><FindRecord input-id="ctl-where" nouns="room" required placeholder="words of a room" @choose="where = $event?.id ?? ''"
      /></label>
      <label class="row"><span>Device instance</span><input v-model="device" class="field mono" type="number" min="0" max="4194302" /></label>
      <button id="ctl-add" class="btn main">Add it</button>
    </form>
    <div v-if="controllers && !controllers.length && !adding" class="sheet empty">
      <h2>No controller yet</h2>
      <p>A controller reads sensors, runs sequences and drives outputs. Add one and fit the points onto its terminals.</p>
    </div>
    <RecordList
      v-else-if="controllers?.length"
      :items="controllers"
      :id="(c) => c.controller.id"
      :text="(c) => `${c.controller.name} ${c.path} ${c.model} ${c.controller.deviceInstance}`"
      noun="controller"
      plural="controllers"
    >
      <template #head>
        <th>Name</th>
        <th>Where</th>
        <th>Model</th>
        <th style="text-align: right">Terminals</th>
        <th style="text-align: right">Values</th>
        <th style="text-align: right">Device</th>
        <th>On the site</th>
        <th></th>
      </template>
      <template #default="{ item: c }">
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
      </template>
    </RecordList>
    <RemoveBox v-if="removing" :ids="[removing]" @close="removing = null" />
  </div>
</template>

<style scoped>
.form {
  max-width: 560px;
}
</style>
