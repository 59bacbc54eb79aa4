<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useShown } from '../shared/api/cache'
import type { Schemas } from '../shared/api/http'
import { siteTime } from '../shared/numbers'
import { useLive, useStore } from '../shared/store'
import { lookOf, type Look, type Read } from './floor'
import FloorPlan from './FloorPlan.vue'
import FloorSide from './FloorSide.vue'

type Room = Schemas['FloorRoom']
const props = defineProps<{ floor?: string }>()
const store = useStore()
const router = useRouter()
const { value: all } = useShown('/floors', () => ({}), ['place'])
const floors = computed(() => all.value?.filter((f) => f.rooms))
const first = computed(() => floors.value?.find((f) => f.name === 'First floor') ?? floors.value?.[0])
watch([first, () => props.floor], ([f, floor]) => !floor && f && void router.replace(`/operate/${f.id}`), { immediate: true })
const {
  value: view,
  problem,
  reload,
} = useShown('/floors/{id}/view', () => (props.floor ? { path: { id: props.floor } } : null), ['place', 'equipment', 'point'])
const measureName = ref('')
const measure = computed(() => view.value?.measures.find((m) => m.name === measureName.value) ?? view.value?.measures[0])
const measures = computed(() =>
  (view.value?.measures ?? []).map((m) => ({ value: m.name, label: m.span ? `${m.name} vs. ${against.value === 'then' ? 'then' : 'setpoint'}` : m.name })),
)
const live = useLive(() =>
  (view.value?.rooms ?? []).flatMap((r) => [
    ...r.measures.flatMap((m) => [`p:${m.pointId}`, ...(m.setpointId ? [`p:${m.setpointId}`] : [])]),
    ...r.points.map((p) => `p:${p}`),
  ]),
)
// Another time: what the trends tell of a moment, shown in place of now, or compared with it.
const zone = computed(() => store.project?.timeZone ?? 'UTC')
const against = ref<'now' | 'past' | 'then'>('now')
const ways: { value: 'now' | 'past' | 'then'; label: string }[] = [
  { value: 'now', label: 'Now' },
  { value: 'past', label: 'At a time' },
  { value: 'then', label: 'Now against then' },
]
const at = ref<string | null>(null)
watch(against, () => (at.value ??= siteTime((store.clock?.now ?? Date.now()) - 86400e3, zone.value, true).slice(4)))
const { value: past, problem: pastProblem } = useShown(
  '/floors/{id}/past',
  () => (props.floor && at.value && against.value !== 'now' ? { path: { id: props.floor }, query: { at: at.value } } : null),
  ['place', 'equipment', 'point', 'trend'],
)
const then = computed(() => new Map((past.value ?? []).map((p) => [p.pointId, { v: p.value, f: p.flags, text: p.text }])))
const read = (id: string | null | undefined, before = against.value === 'past'): Read | undefined =>
  !id ? undefined : before ? then.value.get(id) : live.get(`p:${id}`)
const measureOf = (r: Room) => r.measures.find((m) => m.name === measure.value?.name)
/** How a room looks, and what of it wants somebody now. */
function look(r: Room): Look & { state: string } {
  const m = measureOf(r)
  const alarm = r.points.some((p) => store.alarms.some((a) => a.pointId === p && a.stillSo))
  const held = r.points.some((p) => store.held.some((h) => h.pointId === p))
  const state = against.value === 'past' ? '' : [alarm ? '▲ alarm' : '', held ? '◐ held' : ''].filter(Boolean).join(' ')
  const other = against.value === 'then' ? read(m?.pointId, true) : read(m?.setpointId)
  return { ...lookOf(read(m?.pointId), other, measure.value?.span ?? null, measure.value?.differenceUnit ?? null), state }
}
const looks = computed(() => new Map((view.value?.rooms ?? []).map((r) => [r.id, look(r)])))
const here = computed(() => new Set<string>((view.value?.rooms ?? []).flatMap((r) => r.points)))
const numbers = computed(() =>
  (view.value?.rooms ?? [])
    .map((r) => ({ room: r.name, read: read(measureOf(r)?.pointId) }))
    .filter((x): x is { room: string; read: Read & { v: number } } => x.read?.v != null && !!looks.value.size && !x.read.f),
)
function step(by: 1 | -1) {
  const list = floors.value ?? []
  const next = list[list.findIndex((f) => f.id === props.floor) - by]
  if (next) void router.push(`/operate/${next.id}`)
}
useEventListener('keydown', (e: KeyboardEvent) => {
  if ((e.target as HTMLElement).closest('input, textarea, [role=combobox]')) return
  if (e.key === ']') step(1)
  else if (e.key === '[') step(-1)
})
</script>

<template>
  <PageShell :title="view?.floor.name ?? 'Floor'" :problem="problem" @again="reload">
    <template v-if="view" #facts>
      <RecordPicker
        nouns="floor"
        reverts
        :says="`${view.building} › ${view.floor.name}`"
        aria-label="Floor"
        style="width: 230px"
        @choose="(f) => f && router.push(`/operate/${f.id}`)"
      />
    </template>
    <EmptyState v-if="floors && !floors.length" title="No floor to show yet">
      A floor view is made from the rooms of a floor. Add them under Plan.
      <template v-if="store.may('engineer')" #next><LinkButton to="/plan" main>Plan</LinkButton></template>
    </EmptyState>
    <div v-if="view" class="head">
      <ChooseOne
        v-if="measures.length"
        :model-value="measure?.name ?? ''"
        :options="measures"
        label="What rooms are coloured by"
        @update:model-value="(m) => (measureName = m)"
      />
      <ChooseOne v-model="against" :options="ways" label="When" class="desk" />
      <DateBox v-if="against !== 'now'" v-model="at" time aria-label="Moment, in the time of the site" />
      <span v-if="pastProblem" class="wrong">{{ pastProblem }}</span>
      <span v-else-if="against !== 'now' && past && !past.length" class="dim">No trend tells of this moment.</span>
    </div>
    <div v-if="view" class="cols" :class="{ open: store.selected }">
      <FloorPlan :rooms="view.rooms" :looks="looks" :floor="view.floor.id" />
      <FloorSide :measure="measure" :against="against" :here="here" :numbers="numbers" />
    </div>
  </PageShell>
</template>

<style scoped>
/* The dossier stands where the side stood: the plan keeps its size when it opens. */
.cols {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 318px;
  gap: 12px;
  align-items: start;
}
.cols.open {
  grid-template-columns: minmax(0, 1fr);
}
@media (max-width: 700px) {
  .cols {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
