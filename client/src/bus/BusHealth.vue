<script setup lang="ts">
import { computed, defineAsyncComponent, ref, watch } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { count, many, siteTime } from '../shared/numbers'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import { lasts, seen, states } from './atWork'
import HealthPast from './HealthPast.vue'

// What reads and draws square codes is loaded when it is asked for.
const ScanBox = defineAsyncComponent(() => import('./ScanBox.vue'))
const StickerBox = defineAsyncComponent(() => import('./StickerBox.vue'))
/** What a bus device said of itself when it was looked at, and in what it was otherwise than designed when it was read back. */
const props = defineProps<{ row: Schemas['BusWorkRow']; job?: Schemas['JobView']; known: boolean }>()
const emit = defineEmits<{ noted: [] }>()
const store = useStore()
const attempt = useDo()
const label = ref('')
watch(
  () => props.row.id,
  () => (label.value = props.row.serial ?? ''),
  { immediate: true },
)
const scanning = ref(false)
const sticker = ref(false)
function scanned(text: string) {
  scanning.value = false
  label.value = text
  void note()
}
async function note() {
  if (await attempt(() => post('/bus/work/{id}/label', { path: { id: props.row.id }, body: { label: label.value } }), 'Noted')) emit('noted')
}
const { value: compared } = useShown('/bus/work/{id}/compare', () => ({ path: { id: props.row.id } }), ['jobs', 'busDevice'])
const when = (ms: number) => new Date(ms).toLocaleString('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })
const atSite = (ms: number) => siteTime(ms, store.project?.timeZone ?? 'UTC', true)
const number = (value: number | null | undefined, unit: string) => (value == null ? '–' : `${count(Math.round(value * 10) / 10)}${unit}`)
const health = computed(() => props.row.health)
const hasEnergy = computed(() => props.row.channels.some((c) => c.wattHours != null))
</script>

<template>
  <h2>{{ row.name }}</h2>
  <p class="dim">{{ row.path }} · {{ row.device }}</p>
  <p>
    <b class="mono">{{ row.address ?? 'no address' }}</b> {{ states[row.state].mark }} {{ states[row.state].words }} · {{ seen(row.onSite) }}
    <template v-if="health?.serial ?? row.serial ?? row.onSite?.serial"
      ><br />label <span class="mono">{{ health?.serial ?? row.serial ?? row.onSite?.serial }}</span></template
    >
  </p>
  <form v-if="store.may('technician')" class="label" @submit.prevent="note">
    <TextBox
      id="label-is"
      v-model="label"
      mono
      :placeholder="row.canBeSecured ? 'label or certificate' : 'label, such as 00FA-1000-0105-BD'"
      aria-label="Serial number on the label, or certificate"
      style="flex: 1 0 100%"
    /><NButton id="label-note" attr-type="submit" :disabled="!label || label === row.serial">Note it</NButton
    ><NButton id="label-scan" @click="scanning = true">Scan…</NButton><NButton v-if="row.onSite" id="sticker" @click="sticker = true">Sticker…</NButton>
  </form>
  <p v-if="row.isSecured" :class="{ wrong: !known }">
    {{ known ? '✓ secured; its certificate is known' : '✕ secured, and its certificate is not known: type it or scan the sticker' }}
  </p>
  <ScanBox v-if="scanning" @read="scanned" @close="scanning = false" />
  <StickerBox v-if="sticker" :device="row.id" :name="row.name" @close="sticker = false" />
  <p class="dim">
    Writing all of it takes {{ lasts(row.fullSeconds)
    }}<template v-if="row.differenceSeconds != null">, what differs {{ lasts(row.differenceSeconds) }}</template
    >: {{ many(row.parameters, 'parameter') }}, {{ count(row.groups) }} group {{ row.groups === 1 ? 'address' : 'addresses' }}. Until it is whole the device
    does what it did.
  </p>
  <template v-if="health">
    <p>
      firmware {{ health.firmware }} · lost the bus {{ health.failures }}×<template v-if="health.failures">, last {{ atSite(health.failedAt) }}</template
      >, has it since {{ atSite(health.fedSince) }}
    </p>
    <NTable v-if="row.channels.length" size="small" :bordered="false" class="close">
      <thead>
        <tr>
          <th>Channel</th>
          <th class="num">Drives</th>
          <th class="num">On for</th>
          <th class="num">Came on</th>
          <th v-if="hasEnergy" class="num">Energy</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="c in row.channels" :key="c.name">
          <td>{{ c.name }}</td>
          <td class="num">{{ c.says ?? '–' }}</td>
          <td class="num">{{ number(c.hours, ' h') }}</td>
          <td class="num">{{ number(c.cycles, '×') }}</td>
          <td v-if="hasEnergy" class="num">{{ number(c.wattHours, ' Wh') }}</td>
        </tr>
      </tbody>
    </NTable>
    <HealthPast :device="row.id" :counts="row.channels.some((c) => c.hours != null)" :looked="row.seenAt" />
  </template>
  <p v-else class="dim">Nobody has looked at it since the program started.</p>
  <template v-if="compared?.at">
    <h3>Read back {{ when(compared.at) }}</h3>
    <p v-if="!compared.differences.length">✓ It has what is designed.</p>
    <p v-for="d in compared.differences" :key="d.path">
      <b>{{ d.label }}</b><br /><span class="dim">designed</span> {{ d.designed }} <span class="dim">there</span> {{ d.there }}
    </p>
  </template>
  <p class="acts">
    <LinkButton v-if="store.may('technician') && row.address" main :to="`/commission/bus/${row.id}`">Try its channels</LinkButton
    ><LinkButton :to="`/wire/bus/${row.id}`">Parameters</LinkButton>
  </p>
</template>

<style scoped>
.label {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.num {
  text-align: right;
}
</style>
