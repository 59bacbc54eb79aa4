<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { many } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Action, Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'

/** The project's own sensor curves, each drawn by its points. */
type Line = Schemas['CurveLine']
const store = useStore()
const attempt = useDo()
const { value: curves, problem, reload } = useShown('/curves', () => ({}), ['sensorCurve', 'fitting'])
const adding = ref(false)
const removing = ref<string[] | null>(null)
const name = ref('')
const text = ref('')
const chosen = ref<string | null>(null)
const columns: Column<Line>[] = [
  { key: 'name', title: 'Curve', sort: (c) => c.curve.name },
  { key: 'points', title: 'Points', width: 80, isNumber: true, sort: (c) => c.curve.points.length },
  { key: 'used', title: 'Used by', width: 120, isNumber: true, sort: (c) => c.uses },
]
const actions = computed<Action<Line>[]>(() =>
  store.may('engineer')
    ? [
        { label: 'Change in its dossier', run: ([c]) => (store.selected = c!.curve.id) },
        { label: 'Remove…', run: (rows) => (removing.value = rows.map((c) => c.curve.id)), many: true, key: 'Delete' },
      ]
    : [],
)
async function add() {
  const body = { name: name.value.trim(), points: text.value }
  const done = await attempt(async () => (chosen.value = (await post('/curves', { body })).ids[0] ?? null), 'Made')
  if (done) [adding.value, name.value, text.value] = [false, '', '']
}
/** The line of a curve in a box of 240 by 130. */
function line({ curve }: Line) {
  const by = [...curve.points].sort((a, b) => a.raw - b.raw)
  const values = by.map((p) => p.value)
  const [x0, x1, y0, y1] = [by[0]!.raw, by.at(-1)!.raw, Math.min(...values), Math.max(...values)]
  return by.map((p) => `${10 + (220 * (p.raw - x0)) / (x1 - x0)},${120 - (110 * (p.value - y0)) / (y1 - y0)}`).join(' ')
}
</script>

<template>
  <PageShell :problem="problem" @again="reload">
    <template v-if="curves" #facts
      ><FactTag>{{ many(curves.length, 'curve') }}</FactTag></template
    >
    <template #actions><NButton v-if="store.may('engineer')" id="add-curve" type="primary" @click="adding = true">Add a curve…</NButton></template>
    <EmptyState v-if="curves && !curves.length" title="No curve of your own yet">
      Pt100, Pt1000, Ni1000 and the usual thermistors are known. A sensor that follows none of them gets a curve by points, and a terminal with the signal
      “resistance by curve”, volts or milliamps measures by it.
      <template v-if="store.may('engineer')" #next><NButton type="primary" @click="adding = true">Add a curve…</NButton></template>
    </EmptyState>
    <RecordTable
      v-else-if="curves"
      v-model:chosen="chosen"
      :rows="curves"
      :columns="columns"
      :id="(c) => c.curve.id"
      noun="curve"
      plural="curves"
      :words="(c) => c.curve.name"
      :actions="actions"
    >
      <template #name="{ row: c }"
        ><b>{{ c.curve.name }}</b></template
      >
      <template #points="{ row: c }">{{ c.curve.points.length }}</template>
      <template #used="{ row: c }">{{ many(c.uses, 'terminal') }}</template>
      <template #details="{ row: c }">
        <h2>{{ c.curve.name }}</h2>
        <svg viewBox="0 0 240 130" role="img" :aria-label="`Curve ${c.curve.name}`"><polyline :points="line(c)" /></svg>
        <NTable size="small" :bordered="false" class="close">
          <thead>
            <tr>
              <th>Gives, Ω, V or mA</th>
              <th>Means, unit of the point</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="p in c.curve.points" :key="p.raw">
              <td class="num">{{ p.raw }}</td>
              <td class="num">{{ p.value }}</td>
            </tr>
          </tbody>
        </NTable>
      </template>
    </RecordTable>
    <ModalBox v-if="adding" label="Add a curve" @close="adding = false">
      <form @submit.prevent="add">
        <h2>Add a curve</h2>
        <label class="row"><span>Name</span><TextBox id="curve-name" v-model="name" required maxlength="80" placeholder="Shelf probe" /></label>
        <label class="row"
          ><span>Points</span
          ><TextBox id="curve-points" v-model="text" mono type="textarea" :rows="5" placeholder="9200 = -10; 5000 = 10; 2500 = 30" aria-label="Points"
        /></label>
        <p class="dim">What the sensor gives, =, what that means; one point after the other. It must rise or fall all along.</p>
        <p class="acts"><NButton id="curve-do" type="primary" attr-type="submit">Add it</NButton><NButton @click="adding = false">Leave</NButton></p>
      </form>
    </ModalBox>
    <ConfirmRemoval v-if="removing" :ids="removing" @close="removing = null" />
  </PageShell>
</template>

<style scoped>
svg {
  width: 100%;
  max-width: 320px;
  background: var(--sunk);
  border-radius: 6px;
}
polyline {
  fill: none;
  stroke: var(--plum);
  stroke-width: 2;
}
</style>
