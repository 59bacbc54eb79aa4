<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { many, siteTime } from '../shared/numbers'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

/** How one controller stands, what it has noted of itself, and what may be done to it: its program, its communication, on the virtual site its supply. */
const props = defineProps<{ controller: string }>()
const store = useStore()
const attempt = useDo()
const zone = computed(() => store.project?.timeZone ?? 'UTC')
const { value: devices } = useShown('/devices', () => ({}), ['events', 'jobs'])
const device = computed(() => devices.value?.find((d) => d.standing.id === props.controller))
const s = computed(() => device.value?.standing)
const asked = ref<Schemas['DeviceOrder'] | null>(null)
const why = ref('')
const orders: Record<Schemas['DeviceOrder'], { label: string; when: (s: Schemas['DeviceStanding']) => boolean; what: string }> = {
  warmStart: {
    label: 'Start again',
    when: (d) => d.phase === 'running',
    what: 'It starts with what it remembers; outputs are at rest for some fifteen seconds.',
  },
  coldStart: {
    label: 'Forget and start',
    when: (d) => d.phase === 'running',
    what: 'It forgets values, timers and what is held by hand; logs and events stay.',
  },
  stop: { label: 'Stop the program', when: (d) => d.phase === 'running', what: 'Its outputs fall to rest until the program goes on.' },
  resume: { label: 'Let the program go on', when: (d) => d.phase === 'stopped', what: 'It goes on with what it remembers.' },
  disableCommunication: {
    label: 'Disable communication',
    when: (d) => d.silentSince == null,
    what: 'Its program goes on; nobody hears it, and its values are stale.',
  },
  enableCommunication: {
    label: 'Enable communication',
    when: (d) => d.silentSince != null && d.phase === 'running',
    what: 'It hands over what it kept meanwhile.',
  },
  powerOff: {
    label: 'Take its supply',
    when: (d) => d.phase !== 'off',
    what: 'As when the fuse goes: outputs fall to rest, nothing is recorded. On the virtual site only.',
  },
  powerOn: { label: 'Give its supply back', when: () => true, what: 'It starts by itself, in some fifteen seconds. On the virtual site only.' },
}
const offered = computed(() =>
  s.value ? (Object.keys(orders) as Schemas['DeviceOrder'][]).filter((o) => orders[o].when(s.value!) && (o !== 'powerOn' || s.value!.silentSince != null)) : [],
)
async function order() {
  const body = { order: asked.value!, why: why.value }
  if (await attempt(() => post('/devices/{id}/order', { path: { id: props.controller }, body }), 'Done; it is in the trail'))
    [asked.value, why.value] = [null, '']
}
const words: Record<string, string> = {
  unknown: 'not known',
  coldstart: 'told to forget and start',
  warmstart: 'told to start again',
  detectedPowerLost: 'its supply came back',
  suspended: 'its program went on',
  activateChanges: 'another program took over',
}
</script>

<template>
  <div v-if="s" class="sheet state" data-state>
    <h2>
      State
      <FactTag :tone="device!.link === 'silent' ? 'crimson' : device!.link === 'late' ? 'amber' : s.phase === 'running' ? 'moss' : 'amber'"
        >{{ s.silentSince != null ? '◇' : '●' }} {{ device!.says }}</FactTag
      >
    </h2>
    <p v-if="s.silentSince != null" class="bar crimson">
      Not heard since {{ siteTime(s.silentSince, zone, true) }}. Its values are the last ones known; what it keeps meanwhile comes when it is heard again.
    </p>
    <dl>
      <dt>Status</dt>
      <dd>{{ s.status.replace(/[A-Z]/g, (c) => `-${c.toLowerCase()}`) }} <span class="dim">(ISO 16484-5)</span></dd>
      <dt>Started</dt>
      <dd>
        {{ s.startedAt ? siteTime(s.startedAt, zone, true) : 'when it was mounted' }}, {{ words[s.reason]
        }}{{ s.starts ? `; ${many(s.starts, 'start')} in all` : '' }}
      </dd>
    </dl>
    <p v-if="store.may('technician')" class="acts">
      <NButton v-for="o in offered" :key="o" size="small" :data-order="o" @click="asked = o">{{ orders[o].label }}…</NButton>
    </p>
    <NTable v-if="s.events.length" size="small" :bordered="false" class="close">
      <tbody>
        <tr v-for="e in [...s.events].reverse().slice(0, 12)" :key="e.number">
          <td class="mono">{{ siteTime(e.atMilliseconds, zone, true, true) }}</td>
          <td>{{ e.phase }}</td>
          <td>{{ e.what }}</td>
        </tr>
      </tbody>
    </NTable>
    <ModalBox v-if="asked" :label="orders[asked].label" @close="asked = null">
      <form @submit.prevent="order">
        <h2>{{ orders[asked].label }}</h2>
        <p>{{ orders[asked].what }}</p>
        <label class="row"><span>Why</span><TextBox id="order-why" v-model="why" required maxlength="200" placeholder="what it is done for" /></label>
        <p class="acts">
          <NButton id="order-do" type="primary" attr-type="submit">{{ orders[asked].label }}</NButton><NButton @click="asked = null">Leave it</NButton>
        </p>
      </form>
    </ModalBox>
  </div>
</template>

<style scoped>
.state {
  display: grid;
  gap: 6px;
}
</style>
