<script setup lang="ts">
import { useMediaQuery } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useShown } from '../shared/api/cache'
import { api, post, type Schemas } from '../shared/api/http'
import { count, many } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Action, Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'
import { useJob } from '../shared/useJob'
import { lasts, seen, states } from './atWork'
import BusHealth from './BusHealth.vue'
import KeysBox from './KeysBox.vue'

/** Bus devices put to work: hung, given their addresses, written, looked at, compared. */
type Row = Schemas['BusWorkRow']
type Deed = Schemas['BusDeed']
const store = useStore()
const router = useRouter()
const attempt = useDo()
const { value: view, problem, reload } = useShown('/bus/work', () => ({}), ['busDevice', 'busLine', 'groupAddress', 'deviceDescription', 'jobs', 'events'])
const { value: watching, reload: rewatch } = useShown('/bus/work/watch', () => ({}), ['busDevice'])
async function watchEvery(minutes: number | null) {
  if (minutes === null) return
  const said = minutes ? `Looked at every ${minutes} min` : 'Not looked at by themselves'
  if (await attempt(() => post('/bus/work/watch', { body: { minutes } }), said)) void rewatch()
}
const { value: keys, reload: rekey } = useShown('/bus/keys', () => (store.may('technician') ? {} : null), ['busDevice'])
const onKeys = ref(false)
const chosen = ref<string | null>(null)
const { job, start } = useJob(() => void reload())
const ids = (rows: Row[]) => ({ ids: rows.map((r) => r.id) })
const rows = computed(() => view.value?.rows ?? [])
const missing = computed(() => rows.value.filter((r) => r.address && !r.onSite))
const changed = computed(() => rows.value.filter((r) => r.state === 'differs' || r.state === 'notConfigured' || r.state === 'interrupted'))
const same = computed(() => rows.value.filter((r) => r.state === 'same').length)
/** On a phone the name with its address, and how it stands. */
const isPhone = useMediaQuery('(max-width: 700px)')
const columns = computed(() => (isPhone.value ? all.filter((c) => c.key === 'name' || c.key === 'state') : all))
const all: Column<Row>[] = [
  { key: 'address', title: 'Address', width: 84, sort: (r) => (r.address ? r.address.split('.').reduce((sum, p) => sum * 256 + Number(p), 0) : Infinity) },
  { key: 'name', title: 'Bus device', sort: (r) => r.name },
  { key: 'site', title: 'At the site', width: 176, sort: (r) => seen(r.onSite) },
  { key: 'state', title: 'On the line', width: 140, sort: (r) => r.state },
  { key: 'takes', title: 'Writing takes', width: 110, isNumber: true, sort: (r) => r.fullSeconds },
  { key: 'failures', title: 'Bus lost', width: 82, isNumber: true, sort: (r) => r.health?.failures ?? -1 },
]
const hang = (rs: Row[]) => attempt(() => post('/bus/work/hang', { body: ids(rs) }).then(reload), 'They hang')
const act = (row: Row, deed: Deed, done: string) => attempt(() => post('/bus/work/act', { body: { id: row.id, do: deed } }).then(reload), done)
const look = (rs: Row[]) => start(() => post('/bus/work/look', { body: ids(rs) }))
const write = (rs: Row[], isFull: boolean) => start(() => post('/bus/work/send', { body: { ...ids(rs), isFull } }))
const give = (rs: Row[], by: Schemas['FoundBy']) => start(() => post('/bus/work/addresses', { body: { ...ids(rs), by } }))
const actions = computed<Action<Row>[]>(() => [
  { label: 'Its parameters', run: ([r]) => router.push(`/wire/bus/${r!.id}`) },
  ...(store.may('technician')
    ? ([
        { label: 'Look at it', run: look, many: true, key: 'l' },
        { label: 'Address by its label', run: (rs) => give(rs, 'label'), many: true },
        { label: 'Address by its button', run: (rs) => give(rs, 'button'), many: true },
        { label: 'Write what differs', run: (rs) => write(rs, false), many: true, key: 'w' },
        { label: 'Write all of it', run: (rs) => write(rs, true), many: true },
        { label: 'Read back and compare', run: ([r]) => ((chosen.value = r!.id), start(() => post('/bus/work/{id}/compare', { path: { id: r!.id } }))) },
        { label: 'Try its channels', run: ([r]) => router.push(`/commission/bus/${r!.id}`) },
        { label: 'Hang it on the virtual site', run: hang, many: true },
        { label: 'Press its button', run: ([r]) => act(r!, 'press', 'Pressed'), when: (r) => !!r.onSite },
        { label: 'Hold its button: as out of its box', run: ([r]) => act(r!, 'reset', 'As out of its box'), when: (r) => !!r.onSite },
        { label: 'Take it off the bus', run: ([r]) => act(r!, 'takeBus', 'It has no bus'), when: (r) => !!r.onSite?.hasBus },
        { label: 'Connect it to the bus', run: ([r]) => act(r!, 'giveBus', 'Connected'), when: (r) => !!r.onSite && !r.onSite.hasBus },
        { label: 'Take it down', run: (rs) => attempt(() => post('/bus/work/take-down', { body: ids(rs) }).then(reload), 'Taken down'), many: true },
      ] satisfies Action<Row>[])
    : []),
])
</script>

<template>
  <PageShell :problem="problem" @again="reload">
    <template v-if="view" #facts
      ><FactTag :tone="same === rows.length && same ? 'moss' : undefined"
        >{{ same === rows.length && same ? '✓' : '○' }} {{ count(same) }} of {{ many(rows.length, 'device') }} as designed</FactTag
      ><FactTag v-if="!view.clockRuns" tone="amber">‖ the site's clock stands still</FactTag></template
    >
    <template v-if="rows.length" #actions>
      <LinkButton :href="api('/bus/work/health.csv')">As CSV</LinkButton>
      <template v-if="store.may('technician')"
        ><NButton v-if="missing.length" id="hang-all" @click="hang(missing)">Hang {{ count(missing.length) }} on the virtual site</NButton
        ><NButton v-if="keys" id="keys" @click="onKeys = true">{{
          keys.state === 'open' ? '✓ Keys open…' : keys.state === 'locked' ? 'Keys locked…' : 'Keys…'
        }}</NButton
        ><label v-if="watching" class="watch"
          >look every
          <NumberBox
            id="watch"
            :model-value="watching.minutes"
            unit="min"
            :width="92"
            aria-label="Looked at every so many minutes of site time, 0 for never"
            @change="watchEvery" /></label
        ><NButton id="look-all" @click="look(rows.filter((r) => r.address))">Look at all</NButton
        ><NButton id="write-changed" type="primary" :disabled="!changed.length" @click="write(changed, false)">Write what differs</NButton></template
      >
    </template>
    <JobProgress v-if="job" :job="job" />
    <EmptyState v-if="view && !rows.length" title="No bus device yet">
      Here bus devices get their addresses by button or by label, are written and read back, and say how they are. Put devices on lines first.
      <template #next><LinkButton main to="/wire/bus">Bus</LinkButton></template>
    </EmptyState>
    <RecordTable
      v-else-if="view"
      v-model:chosen="chosen"
      :rows="rows"
      :columns="columns"
      :id="(r) => r.id"
      noun="bus device"
      plural="bus devices"
      :words="(r) => `${r.name} ${r.path} ${r.device} ${r.address ?? ''} ${r.serial ?? ''} ${states[r.state].words} ${seen(r.onSite)}`"
      :actions="actions"
    >
      <template #address="{ row: r }"
        ><span class="mono">{{ r.address ?? '○ none' }}</span></template
      >
      <template #name="{ row: r }"
        ><b>{{ r.name }}</b
        ><br /><span class="dim tiny">{{ isPhone ? `${r.address ?? 'no address'} · ${seen(r.onSite)}` : `${r.path} · ${r.device}` }}</span></template
      >
      <template #site="{ row: r }">{{ seen(r.onSite) }}</template>
      <template #state="{ row: r }"
        ><span :class="{ wrong: states[r.state].tone === 'crimson' }">{{ states[r.state].mark }} {{ states[r.state].words }}</span
        ><span v-if="r.lineId && !view.isReached" class="dim tiny"><br />no interface leads there</span></template
      >
      <template #takes="{ row: r }">{{ r.state === 'same' ? '–' : lasts(r.differenceSeconds ?? r.fullSeconds) }}</template>
      <template #failures="{ row: r }">{{ r.health ? `${r.health.failures}×` : '–' }}</template>
      <template #details="{ row: r }"><BusHealth :row="r" :job="job" :known="!!keys?.known.includes(r.id)" @noted="(reload(), rekey())" /></template>
    </RecordTable>
    <NSkeleton v-else text :repeat="5" />
    <KeysBox v-if="onKeys && keys" :keys="keys" @close="onKeys = false" @changed="rekey" />
  </PageShell>
</template>

<style scoped>
.watch {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
</style>
