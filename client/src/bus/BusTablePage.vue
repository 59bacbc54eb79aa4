<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { count, many } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Action, Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'
import ParameterInput from './ParameterInput.vue'

/** The parameters of many bus devices of one kind as a table: a row a channel, a column a parameter; one or many rows are set at once. */
type Row = Schemas['ParameterRow']
const store = useStore()
const attempt = useDo()
const { value: devices, problem, reload } = useShown('/bus/devices', () => ({}), ['busDevice', 'busLine', 'place'])
const kinds = computed(() => {
  const found = new Map<string, string>()
  for (const d of devices.value ?? []) found.set(d.descriptionId, d.device)
  return [...found].map(([value, label]) => ({ value, label })).sort((a, b) => a.label.localeCompare(b.label))
})
const kind = ref<string | null>(null)
const sort = ref<string | null>(null)
const words = ref('')
/** Words of rows and of parameters, once nobody types any more. */
const rows = ref('')
const [rowsAsked, wordsAsked] = [refDebounced(rows, 150), refDebounced(words, 150)]
const table = ref<Schemas['ParameterTable'] | null>(null)
const chosen = ref<string | null>(null)
const setting = ref<Row[] | null>(null)
const key = ref<string | null>(null)
watch(kinds, (k) => !kind.value && (kind.value = k.find((x) => x.value.startsWith('switch'))?.value ?? k[0]?.value ?? null), { immediate: true })
watch(kind, () => (sort.value = null))
let turn = 0
async function load() {
  if (!kind.value) return
  const mine = ++turn
  const read = await post('/bus/table', { body: { descriptionId: kind.value, sort: sort.value ?? '', words: wordsAsked.value, rows: rowsAsked.value } })
  // What was asked for since counts, whichever answer comes first.
  if (mine !== turn) return
  if (sort.value === null) {
    const first = read.sorts.find((s) => s.key)
    sort.value = first?.key ?? ''
    if (first) return
  }
  table.value = read
}
watch([kind, sort, wordsAsked, rowsAsked, devices], () => void attempt(load), { immediate: true })
const columns = computed<Column<Row>[]>(() => [
  { key: 'name', title: 'Device and channel', sort: (r) => `${r.device} ${r.name}` },
  ...(table.value?.columns ?? []).map((c, i) => ({ key: `c${i}`, title: c.label, width: 132, sort: (r: Row) => r.cells[i]!.said })),
])
const actions = computed<Action<Row>[]>(() =>
  store.may('engineer')
    ? [{ label: 'Set a parameter…', run: (rows) => ((setting.value = rows), (key.value ??= table.value?.columns[0]?.key ?? null)), many: true, key: 's' }]
    : [],
)
const column = computed(() => table.value?.columns.find((c) => c.key === key.value))
/** The column as a parameter to fill: as it is on the first of the rows that are set. */
const parameter = computed(() => {
  const c = column.value
  const cell = c && setting.value?.[0]?.cells[table.value!.columns.indexOf(c)]
  return c && cell ? ({ ...c, path: c.key, channel: '', channelTitle: '', value: cell.value, said: cell.said } as unknown as Schemas['ParameterView']) : null
})
async function set(text: string | null) {
  const rows = setting.value!.map((r) => ({ deviceId: r.deviceId, channel: r.channel }))
  if (await attempt(() => post('/bus/table/set', { body: { key: key.value!, text, rows } }), `Set at ${many(rows.length, 'channel')}`)) setting.value = null
}
</script>

<template>
  <PageShell :problem="problem" @again="reload">
    <template v-if="table" #facts
      ><FactTag>{{ many(table.all, 'row') }}</FactTag></template
    >
    <EmptyState v-if="devices && !devices.length" title="No bus device yet">
      Here the parameters of many devices of one kind stand side by side. Add devices first.
      <template #next><LinkButton main to="/wire/bus">Bus</LinkButton></template>
    </EmptyState>
    <template v-else>
      <div class="choosing">
        <PickOne v-model="kind" :options="kinds" aria-label="Devices of" style="width: 260px" />
        <PickOne v-model="sort" :options="(table?.sorts ?? []).map((s) => ({ value: s.key, label: s.title }))" aria-label="Channels" style="width: 160px" />
        <TextBox
          id="table-rows"
          v-model="rows"
          placeholder="words of a device, room or value"
          aria-label="Words of a device, room or value"
          style="width: 250px"
        />
        <TextBox id="table-words" v-model="words" placeholder="words of parameters" aria-label="Words of parameters" style="width: 220px" />
        <span class="dim">{{ words ? '' : 'Shown is what was set somewhere; words bring other parameters.' }}</span>
      </div>
      <p v-if="table && !table.rows.length" class="dim">No channel has all of these words. <NButton text @click="rows = ''">Show all</NButton></p>
      <RecordTable
        v-else-if="table"
        v-model:chosen="chosen"
        :rows="table.rows"
        :columns="columns"
        :id="(r) => `${r.deviceId}|${r.channel}`"
        noun="channel"
        plural="channels"
        :actions="actions"
      >
        <template #name="{ row: r }"
          ><RouterLink :to="`/wire/bus/${r.deviceId}`"
            ><b>{{ r.device }}</b></RouterLink
          >
          {{ r.name }}<br /><span class="dim tiny">{{ r.path }}</span></template
        >
        <template v-for="(_, i) in table.columns" :key="i" #[`c${i}`]="{ row: r }"
          ><span :class="{ dim: !r.cells[i]!.isThere, set: r.cells[i]!.differs }" :title="r.cells[i]!.isThere ? '' : 'not in force'"
            >{{ r.cells[i]!.isThere ? '' : '○ ' }}{{ r.cells[i]!.said }}</span
          ></template
        >
      </RecordTable>
      <NSkeleton v-else text :repeat="5" />
      <p v-if="table && table.all > table.rows.length" class="dim">
        The first {{ count(table.rows.length) }} of {{ count(table.all) }} rows; words of a device, room or value bring the others.
      </p>
    </template>
    <ModalBox v-if="setting && table" label="Set a parameter" @close="setting = null">
      <h2>Set at {{ many(setting.length, 'channel') }}</h2>
      <label class="row"
        ><span>Parameter</span><PickOne v-model="key" :options="table.columns.map((c) => ({ value: c.key, label: c.label }))" aria-label="Parameter"
      /></label>
      <div v-if="parameter" class="row"><span>Becomes</span><ParameterInput :parameter="parameter" @set="set" /></div>
      <p class="dim">{{ column?.help }} It is set when a value is chosen, or with Enter.</p>
      <p class="acts"><NButton @click="set(null)">As it begins</NButton><NButton @click="setting = null">Leave</NButton></p>
    </ModalBox>
  </PageShell>
</template>

<style scoped>
.set {
  font-weight: 600;
}
</style>
