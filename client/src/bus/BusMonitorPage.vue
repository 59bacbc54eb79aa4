<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useShown } from '../shared/api/cache'
import { api, get, post, type Schemas } from '../shared/api/http'
import { count, many } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Action, Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'
import MonitorLoad from './MonitorLoad.vue'

/** What is said on a line, telegram by telegram, in words; recorded, filtered, said again; and how loaded the line is. */
type Heard = Schemas['HeardTelegram']
const store = useStore()
const attempt = useDo()
const { value: lines, problem, reload } = useShown('/bus/lines', () => ({}), ['busLine'])
const line = ref<string | null>(null)
const words = ref('')
const chosen = ref<string | null>(null)
const view = ref<Schemas['MonitorView'] | null>(null)
const isHeld = ref(false)
const saying = ref(false)
const group = ref('')
const value = ref('')
watch(lines, (l) => (line.value ??= l?.[0]?.line.id ?? null), { immediate: true })
const path = () => ({ path: { line: line.value! } })
async function read() {
  if (!line.value || isHeld.value) return
  const asked = line.value
  const fresh = await get('/bus/monitor/{line}', { ...path(), query: { words: words.value } }).catch(() => null)
  if (fresh && asked === line.value) view.value = fresh
}
watch([line, words], () => ((view.value = null), void read()), { immediate: true })
useIntervalFn(() => void read(), 1000)
const listen = (on: boolean) => attempt(() => post('/bus/monitor/{line}', { ...path(), query: { on } }).then(read))
const rows = computed(() => [...(view.value?.telegrams ?? [])].reverse())
const time = (ms: number) => new Date(ms).toISOString().slice(11, 23)
const columns: Column<Heard>[] = [
  { key: 'at', title: 'Time', width: 116 },
  { key: 'priority', title: 'Priority', width: 84 },
  { key: 'from', title: 'From', width: 200 },
  { key: 'to', title: 'To' },
  { key: 'says', title: 'Says', width: 200 },
]
const say = () => attempt(() => post('/bus/monitor/{line}/say', { ...path(), body: { group: group.value, value: value.value } }).then(read), 'Said')
const actions = computed<Action<Heard>[]>(() =>
  store.may('technician')
    ? [
        {
          label: 'Say them again…',
          run: (rs) => {
            const numbers = rs.map((r) => r.number)
            return attempt(
              () => post('/bus/monitor/{line}/replay', { ...path(), body: { from: Math.min(...numbers), until: Math.max(...numbers) } }),
              'They are said again',
            )
          },
          many: true,
        },
      ]
    : [],
)
</script>

<template>
  <PageShell :problem="problem" @again="reload">
    <template v-if="view?.isListening" #facts
      ><FactTag tone="moss">● listens</FactTag><FactTag>{{ many(view.heard, 'telegram') }}</FactTag></template
    >
    <template v-if="line && store.may('technician')" #actions>
      <template v-if="view?.isListening"
        ><LinkButton :href="api(`/bus/monitor/${line}/record.csv`)">Record as CSV</LinkButton><NButton @click="saying = !saying">Say something…</NButton
        ><NButton @click="isHeld = !isHeld">{{ isHeld ? 'Go on' : 'Hold the list' }}</NButton
        ><NButton @click="listen(false)">Stop</NButton></template
      ><NButton v-else id="listen" type="primary" @click="listen(true)">Listen</NButton>
    </template>
    <EmptyState v-if="lines && !lines.length" title="No line yet">
      What is said on a two-wire line is shown here telegram by telegram, by the names of devices and groups.
      <template #next><LinkButton main to="/wire/bus">Bus</LinkButton></template>
    </EmptyState>
    <template v-else-if="lines">
      <div class="choosing">
        <PickOne
          v-model="line"
          :options="lines.map((l) => ({ value: l.line.id, label: `${l.written} ${l.line.name}` }))"
          aria-label="Line"
          style="width: 260px"
        />
        <TextBox
          id="monitor-words"
          v-model="words"
          placeholder="words: a name, an address, a value"
          aria-label="Show only telegrams with these words"
          style="width: 300px"
        />
      </div>
      <form v-if="saying" class="sheet choosing say" @submit.prevent="say">
        <TextBox id="say-group" v-model="group" mono required placeholder="1/0/0" aria-label="To the group" style="width: 120px" />
        <TextBox id="say-value" v-model="value" placeholder="on, 40 %, 21.5 °C; empty asks" aria-label="Value" style="width: 220px" />
        <NButton type="primary" attr-type="submit">{{ value.trim() ? 'Say it' : 'Ask' }}</NButton>
      </form>
      <p v-if="view?.trouble" class="bar crimson">✕ {{ view.trouble }}</p>
      <p v-if="view && !view.isListening && !view.heard" class="dim">
        Nobody listens to this line yet. An interface on it hears every telegram, its own aside.
      </p>
      <template v-if="view?.heard">
        <MonitorLoad :view="view" />
        <RecordTable v-model:chosen="chosen" :rows="rows" :columns="columns" :id="(t) => `${t.number}`" noun="telegram" plural="telegrams" :actions="actions">
          <template #at="{ row: t }"
            ><span class="mono">{{ time(t.at) }}</span></template
          >
          <template #priority="{ row: t }">{{ t.priority }}{{ t.isRepeated ? ' ↻' : '' }}</template>
          <template #from="{ row: t }"
            ><span class="mono">{{ t.from }}</span> {{ t.fromName }}</template
          >
          <template #to="{ row: t }"
            ><span class="mono">{{ t.to }}</span> {{ t.toName }}</template
          >
          <template #says="{ row: t }"
            ><span class="dim">{{ t.service }}</span> <b>{{ t.says }}</b></template
          >
          <template #details="{ row: t }">
            <h2>
              {{ t.service }} <b>{{ t.says }}</b>
            </h2>
            <p>
              {{ time(t.at) }} by the site's clock (UTC), {{ t.priority }} priority, {{ (t.microseconds / 1000).toFixed(1) }} ms on the line{{
                t.isRepeated ? ', repeated' : ''
              }}
            </p>
            <p>from {{ t.from }} {{ t.fromName }}<br />to {{ t.to }} {{ t.toName }}</p>
            <p class="mono">{{ t.octets.replace(/(..)/g, '$1 ') }}</p>
          </template>
        </RecordTable>
      </template>
      <p v-if="view && view.telegrams.length >= 500" class="dim">The last {{ count(view.telegrams.length) }} that have these words.</p>
    </template>
    <NSkeleton v-else text :repeat="5" />
  </PageShell>
</template>

<style scoped>
.say {
  padding: 8px 12px;
}
</style>
