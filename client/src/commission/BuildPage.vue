<script setup lang="ts">
import { ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { count } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'

type Line = Schemas['BuildLine']
const store = useStore()
const attempt = useDo()
const {
  value: review,
  problem,
  reload,
} = useShown('/site/build', () => ({}), ['jobs', 'place', 'equipment', 'point', 'controller', 'fitting', 'plantTie', 'taggingRule'])
const busy = ref(false)
const steps: Record<Schemas['BuildStep'], string> = { build: '+ build', change: '~ change', takeAway: '− take away' }
async function build() {
  busy.value = true
  await attempt(() => post('/site/build'), 'The virtual site stands as it is drawn')
  await reload()
  busy.value = false
}
const columns: Column<Line>[] = [
  { key: 'step', title: 'What', width: 120, sort: (l) => l.step },
  { key: 'sort', title: 'Sort', width: 110, sort: (l) => l.sort },
  { key: 'name', title: 'Name', sort: (l) => l.name },
  { key: 'where', title: 'Where', sort: (l) => l.where },
  { key: 'detail', title: 'Change' },
]
</script>

<template>
  <PageShell :problem="problem" @again="reload">
    <template v-if="review" #facts
      ><FactTag :tone="review.lines.length ? 'amber' : 'moss'">{{ review.lines.length ? '▲' : '✓' }} {{ review.sentence }}</FactTag></template
    >
    <template v-if="review && store.may('technician')" #actions
      ><NButton id="build" type="primary" :loading="busy" :disabled="!review.lines.length" @click="build">Build what differs</NButton></template
    >
    <p class="dim">
      The virtual site stands in for builders and electricians. It knows nothing of the drawings until you build: only the rooms, machines and wires below are
      touched, and what stays keeps its warmth. Programs are not sent by this.
    </p>
    <template v-if="review">
      <EmptyState v-if="!review.lines.length" title="Nothing to build">
        Draw a room, add equipment or put a point onto a terminal; what differs then is listed here.
      </EmptyState>
      <RecordTable
        v-else
        :rows="review.lines"
        :columns="columns"
        :id="(l) => `${l.sort}|${l.id}|${l.hostId}|${l.terminal}`"
        noun="line"
        plural="lines"
        :words="(l) => `${l.sort} ${l.name} ${l.where}`"
      >
        <template #step="{ row: l }"
          ><span :class="{ wrong: l.step === 'takeAway' }">{{ steps[l.step as Schemas['BuildStep']] }}</span></template
        >
        <template #name="{ row: l }"
          ><b>{{ l.name }}</b></template
        >
        <template #where="{ row: l }"
          ><span :class="{ mono: l.terminal }">{{ l.where || '–' }}</span></template
        >
        <template #detail="{ row: l }">{{ l.detail ?? '–' }}</template>
      </RecordTable>
      <p v-if="review.isCut" class="dim">Only the first {{ count(review.lines.length) }} lines are shown; all of them are built.</p>
    </template>
  </PageShell>
</template>
