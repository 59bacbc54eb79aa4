<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useShown } from '../shared/api/cache'
import { get, post, type Schemas } from '../shared/api/http'
import { useStore } from '../shared/store'
import type { Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'

/** Everything of a room that talks together: objects and points one below the other, group addresses side by side. */
type Row = Schemas['MatrixRow']
const { value: talks, problem, reload } = useShown('/bus/conversations', () => ({}), ['conversation', 'place'])
const places = computed(() => {
  const found = new Map<string, string>()
  for (const t of talks.value ?? []) found.set(t.placeId, t.path)
  return [...found].map(([value, label]) => ({ value, label })).sort((a, b) => a.label.localeCompare(b.label))
})
const place = ref<string | null>(null)
watch(places, (p) => (place.value ??= p[0]?.value ?? null), { immediate: true })
const { value: matrix } = useShown('/bus/matrix/{placeId}', () => (place.value ? { path: { placeId: place.value } } : null), [
  'conversation',
  'groupAddress',
  'busDevice',
  'busBinding',
])
const chosen = ref<string | null>(null)
const columns = computed<Column<Row>[]>(() => [
  { key: 'device', title: 'Object', width: 260, sort: (r) => `${r.device} ${r.object}` },
  ...(matrix.value?.addresses ?? []).map((a, i) => ({ key: `c${i}`, title: a.number, width: 74, sort: (r: Row) => -Number(says(r, i).length > 0) })),
])
/** Says it, hears it, answers whoever asks. */
function says(r: Row, column: number): string {
  const m = r.marks.find((x) => x.column === column)
  return m ? `${m.says ? '→' : ''}${m.hears ? '←' : ''}${m.answers ? '?' : ''}` || '·' : ''
}
const store = useStore()
const attempt = useDo()
const joining = ref<string | null>(null)
/** Objects are joined from their row; a point is bound elsewhere. */
const isObject = (r: Row) => r.id.includes('|')
/** Joins an object to the address of a column, or lets go of it; what it is joined to elsewhere, which is not shown here, stays. */
const press = (r: Row, column: number) =>
  attempt(async () => {
    const path = { id: r.recordId }
    const object = r.id.split('|')[1]!
    const { number } = matrix.value!.addresses[column]!
    const had = (await get('/bus/devices/{id}/objects', { path })).find((o) => o.path === object)?.groups.map((g) => g.number) ?? []
    const groups = had.includes(number) ? had.filter((n) => n !== number) : [...had, number]
    return post('/bus/devices/{id}/joins', { path, body: { object, groups, make: false, from: null } })
  })
const words = (m: Schemas['MatrixMark']) =>
  [m.says ? 'says it' : '', m.hears ? 'hears it' : '', m.answers ? 'answers whoever asks' : ''].filter(Boolean).join(', ')
</script>

<template>
  <PageShell :problem="problem" @again="reload">
    <template #actions><LinkButton to="/wire/groups">As a list</LinkButton></template>
    <EmptyState v-if="talks && !talks.length" title="Nothing talks yet">
      Here the group addresses of a room stand against all that says and hears them. Join a conversation first.
      <template #next><LinkButton main to="/wire/conversations">Conversations</LinkButton></template>
    </EmptyState>
    <template v-else-if="talks">
      <div class="choosing">
        <PickOne v-model="place" :options="places" aria-label="Room" style="width: 340px" />
        <span class="dim">→ says · ← hears · ? answers whoever asks{{ store.may('engineer') ? ' · press a field to join or let go' : '' }}</span>
      </div>
      <RecordTable
        v-if="matrix"
        v-model:chosen="chosen"
        :rows="matrix.rows"
        :columns="columns"
        :id="(r) => r.id"
        noun="object"
        plural="objects"
        :words="(r) => `${r.device} ${r.object}`"
      >
        <template #device="{ row: r }"
          ><b>{{ r.device }}</b
          ><br /><span class="dim tiny">{{ r.object }}</span></template
        >
        <template v-for="(_, i) in matrix.addresses" :key="i" #[`c${i}`]="{ row: r }"
          ><BareButton
            v-if="isObject(r) && store.may('engineer')"
            class="mono cell"
            :aria-label="`${r.device} ${r.object}, ${matrix.addresses[i]!.number}: ${says(r, i) ? 'joined' : 'not joined'}`"
            :aria-pressed="!!says(r, i)"
            @click.stop="press(r, i)"
            >{{ says(r, i) || '·' }}</BareButton
          ><span v-else class="mono cell">{{ says(r, i) }}</span></template
        >
        <template #details="{ row: r }">
          <h2>{{ r.device }}</h2>
          <p>
            {{ r.object }} <span v-if="r.flags" class="dim mono">{{ r.flags }}</span>
          </p>
          <p v-for="m in r.marks" :key="m.column">
            <b class="mono">{{ matrix.addresses[m.column]!.number }}</b> {{ matrix.addresses[m.column]!.name }} <span class="dim">{{ words(m) }}</span>{{ ' ' }}
            <NButton v-if="isObject(r) && store.may('engineer')" size="tiny" @click="press(r, m.column)">let go</NButton>
          </p>
          <PickOne
            v-if="isObject(r) && store.may('engineer')"
            v-model="joining"
            :options="
              matrix.addresses.map((a, i) => ({ value: `${i}`, label: `${a.number} ${a.name}` })).filter((o) => !r.marks.some((m) => `${m.column}` === o.value))
            "
            placeholder="join to another address"
            aria-label="Join to another address"
            @update:model-value="(c) => (void press(r, Number(c)), (joining = null))"
          />
        </template>
      </RecordTable>
      <NSkeleton v-else text :repeat="5" />
      <p v-if="matrix?.isCut" class="dim">Only the first {{ matrix.addresses.length }} addresses of the room are shown.</p>
    </template>
    <NSkeleton v-else text :repeat="5" />
  </PageShell>
</template>

<style scoped>
.cell {
  display: inline-block;
  min-width: 28px;
  min-height: 26px;
  text-align: center;
}
</style>
