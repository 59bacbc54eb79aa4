<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useShown } from '../shared/api/cache'
import type { Schemas } from '../shared/api/http'
import { many } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Action, Column } from '../shared/ui/records'
import AddDeviceBox from './AddDeviceBox.vue'
import AddressBox from './AddressBox.vue'
import LineBudgets from './LineBudgets.vue'

/** The devices of all two-wire lines, and the budgets of the lines. */
type Line = Schemas['BusDeviceLine']
const store = useStore()
const route = useRoute()
const router = useRouter()
const rests = ['busDevice', 'busLine', 'conversation', 'place', 'deviceDescription'] as const
const { value: devices, problem, reload } = useShown('/bus/devices', () => ({}), rests)
const { value: lines } = useShown('/bus/lines', () => ({}), ['busLine', 'busDevice'])
const line = ref<string | null>(null)
const adding = ref(false)
const removing = ref<string[] | null>(null)
const addressing = ref<Line[] | null>(null)
const chosen = ref<string | null>(null)
watch(
  () => route.query.add,
  (a) => a && (adding.value = true),
  { immediate: true },
)
const shown = computed(() => devices.value?.filter((d) => !line.value || d.lineId === line.value))
const page = (d: Line) => `/wire/bus/${d.id}`
const columns: Column<Line>[] = [
  { key: 'address', title: 'Address', width: 88, sort: (d) => (d.address ? d.address.split('.').reduce((sum, p) => sum * 256 + Number(p), 0) : Infinity) },
  { key: 'name', title: 'Bus device', sort: (d) => d.name },
  { key: 'device', title: 'Is', width: 220, sort: (d) => d.device },
  { key: 'settings', title: 'Set', width: 60, isNumber: true, sort: (d) => d.settings },
  { key: 'joins', title: 'Joined', width: 76, isNumber: true, sort: (d) => d.joins },
  { key: 'findings', title: 'Check', width: 70, sort: (d) => d.findings },
]
const actions = computed<Action<Line>[]>(() => [
  { label: 'Open', run: ([d]) => router.push(page(d!)) },
  { label: 'Dossier', run: ([d]) => (store.selected = d!.id) },
  ...(store.may('engineer')
    ? [
        { label: 'Give addresses…', run: (rows: Line[]) => (addressing.value = rows), many: true },
        { label: 'Remove…', run: (rows: Line[]) => (removing.value = rows.map((d) => d.id)), many: true, key: 'Delete' },
      ]
    : []),
])
</script>

<template>
  <PageShell :problem="problem" @again="reload">
    <template v-if="devices" #facts
      ><FactTag>{{ many(devices.length, 'device') }}</FactTag></template
    >
    <template #actions
      ><LinkButton v-if="devices?.length" to="/wire/bus-table">As a table</LinkButton
      ><NButton v-if="store.may('engineer')" id="add-bus-device" type="primary" @click="adding = true">Add a device…</NButton></template
    >
    <LineBudgets v-if="lines" v-model="line" :lines="lines" />
    <EmptyState v-if="devices && !devices.length" title="No bus device yet">
      Push buttons, presence detectors, actuators for light, blinds and fan-coils hang on two-wire lines. Make a line first, then put devices on it; each has
      pages of parameters, and you see here what it will do before anything is sent.
      <template v-if="store.may('engineer')" #next><NButton type="primary" @click="adding = true">Add a device…</NButton></template>
    </EmptyState>
    <RecordTable
      v-else-if="shown"
      v-model:chosen="chosen"
      :rows="shown"
      :columns="columns"
      :id="(d) => d.id"
      noun="bus device"
      plural="bus devices"
      :words="(d) => `${d.name} ${d.path} ${d.device} ${d.address ?? ''} ${d.serial ?? ''}`"
      :page="page"
      :actions="actions"
    >
      <template #address="{ row: d }"
        ><span class="mono">{{ d.address ?? '○ none' }}</span></template
      >
      <template #name="{ row: d }"
        ><RouterLink :to="page(d)"
          ><b>{{ d.name }}</b></RouterLink
        ><br /><span class="dim tiny">{{ d.path }}</span></template
      >
      <template #device="{ row: d }">{{ d.device }}</template>
      <template #settings="{ row: d }">{{ d.settings || '–' }}</template>
      <template #joins="{ row: d }">{{ d.joins || '–' }}</template>
      <template #findings="{ row: d }"
        ><span :class="{ wrong: d.findings }">{{ d.findings ? `▲ ${d.findings}` : '✓' }}</span></template
      >
      <template #details="{ row: d }">
        <h2>{{ d.name }}</h2>
        <p class="dim">{{ d.path }}</p>
        <p>
          {{ d.device }} <b class="mono">{{ d.address ?? 'without an address' }}</b><template v-if="d.serial"
            ><br />serial number <span class="mono">{{ d.serial }}</span></template
          >
        </p>
        <p>
          {{ many(d.settings, 'parameter') }} set otherwise than they begin; {{ many(d.joins, 'object') }} joined; takes part in
          {{ many(d.conversations, 'conversation') }}.
        </p>
        <p class="acts"><LinkButton main :to="page(d)">Open</LinkButton></p>
      </template>
    </RecordTable>
    <NSkeleton v-else text :repeat="5" />
    <AddDeviceBox v-if="adding" :lines="lines ?? []" @close="adding = false" />
    <AddressBox v-if="addressing" :devices="addressing" :lines="lines ?? []" @close="addressing = null" />
    <ConfirmRemoval v-if="removing" :ids="removing" @close="removing = null" />
  </PageShell>
</template>
