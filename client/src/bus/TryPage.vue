<script setup lang="ts">
import { ref, watch } from 'vue'
import { get, post, type Schemas } from '../shared/api/http'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import TravelBox from './TravelBox.vue'

/** Which load hangs on which channel: each is driven by hand, whoever stands in the room sees which lamp it is, and says so. */
const props = defineProps<{ device: string }>()
type Channel = Schemas['TryChannel']
const store = useStore()
const attempt = useDo()
const timing = ref('')
const view = ref<Schemas['TryView'] | null>(null)
const problem = ref('')
const assigning = ref('')
const name = ref('')
const path = () => ({ path: { id: props.device } })
async function load() {
  problem.value = ''
  try {
    view.value = await get('/bus/try/{id}', path())
  } catch (e) {
    problem.value = (e as Error).message
  }
}
watch(() => props.device, load, { immediate: true })
const drive = (c: Channel, value: number | null) =>
  attempt(async () => (view.value = await post('/bus/try/{id}', { ...path(), body: { channel: c.key, value } })))
const said = (c: Channel) => (c.now == null ? 'nothing' : c.states ? (c.states[Math.round(c.now - c.low)] ?? `${c.now}`) : `${Math.round(c.now)} ${c.unit}`)
const steps = (c: Channel) =>
  c.states
    ? c.states.map((s, i) => ({ label: s, value: c.low + i }))
    : [0, 25, 50, 75, 100].map((p) => ({ label: `${c.low + (p * (c.high - c.low)) / 100} ${c.unit}`, value: c.low + (p * (c.high - c.low)) / 100 }))
function open(c: Channel) {
  assigning.value = assigning.value === c.key ? '' : c.key
  name.value = c.name
}
async function assign(c: Channel, placeId: string | null) {
  if (await attempt(() => post('/bus/devices/{id}/uses', { ...path(), body: { channel: c.key, name: name.value, placeId, equipmentId: null } }), 'Noted')) {
    assigning.value = ''
    await load()
  }
}
</script>

<template>
  <PageShell :title="view ? `Try ${view.name}` : 'Try channels'" :problem="problem" @again="load">
    <template v-if="view" #facts
      ><FactTag mono>{{ view.address ?? 'no address' }}</FactTag></template
    >
    <template #actions><LinkButton to="/commission/bus">All bus devices</LinkButton></template>
    <p class="dim">
      Press, and see which lamp, fan or blind it is. The channel is driven by hand at the device; no group address is needed. Let it go when you know.
    </p>
    <div v-if="view" class="channels">
      <section v-for="c in view.channels" :key="c.key" class="sheet channel" :data-try="c.key">
        <h2>
          {{ c.name }} <span class="dim tiny">{{ c.kind }}</span>
        </h2>
        <p>
          drives <b>{{ said(c) }}</b><template v-if="c.place"> · <span class="dim">serves</span> {{ c.place }}</template>
        </p>
        <div class="keys">
          <NButton v-for="s in steps(c)" :key="s.value" size="large" :type="c.now === s.value ? 'primary' : 'default'" @click="drive(c, s.value)">{{
            s.label
          }}</NButton>
          <NButton size="large" quaternary @click="drive(c, null)">Let go</NButton>
        </div>
        <NButton text type="primary" :aria-expanded="assigning === c.key" @click="open(c)">{{
          assigning === c.key ? 'Leave it' : 'I see it: name it…'
        }}</NButton>
        <NButton v-if="c.travels && timing !== c.key" text type="primary" @click="timing = c.key">Time its run…</NButton>
        <TravelBox v-if="timing === c.key" :device="device" :channel="c" :may="store.may('engineer')" @close="((timing = ''), void load())" />
        <form v-if="assigning === c.key" class="assign" @submit.prevent="assign(c, c.placeId ?? null)">
          <label class="row"><span>It is</span><TextBox :id="`is-${c.key}`" v-model="name" maxlength="80" placeholder="Track lights 1" /></label>
          <label class="row"
            ><span>In</span
            ><RecordPicker
              nouns="room"
              :says="c.place ?? ''"
              placeholder="words of a room"
              aria-label="Room it serves"
              @choose="(hit) => hit && assign(c, hit.id)"
          /></label>
          <NButton type="primary" attr-type="submit">Note it</NButton>
        </form>
      </section>
    </div>
    <NSkeleton v-else-if="!problem" text :repeat="5" />
  </PageShell>
</template>

<style scoped>
.channels {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(320px, 1fr));
  gap: 10px;
}
.channel {
  display: grid;
  gap: 6px;
  align-content: start;
  padding: 10px 14px;
}
.channel > .n-button {
  justify-self: start;
}
.keys {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.assign {
  display: grid;
  gap: 6px;
}
</style>
