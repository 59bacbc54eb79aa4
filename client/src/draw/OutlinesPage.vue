<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { boxOf } from '../operate/floor'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { change, put, type Place } from '../shared/api/records'
import { useStore } from '../shared/store'
import type { Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'
import { areaOf, readCorners, sayCorners } from './outline'

type Room = Schemas['SectionRoom']
const props = defineProps<{ floor?: string }>()
const store = useStore()
const router = useRouter()
const attempt = useDo()
const { value: floors } = useShown('/floors', () => ({}), ['place'])
const line = computed(() => floors.value?.find((f) => f.id === props.floor) ?? floors.value?.find((f) => f.rooms) ?? null)
const {
  value: section,
  problem,
  reload,
} = useShown('/buildings/{id}/section', () => (line.value ? { path: { id: line.value.buildingId } } : null), ['place', 'equipment', 'point'])
const current = computed(() => section.value?.floors.find((f) => f.floor.id === line.value?.id) ?? null)
const rooms = computed(() => current.value?.rooms ?? [])
const outlineOf = (r: { room: Place }) => r.room.outline ?? []
const drawn = computed(() => rooms.value.filter((r) => outlineOf(r).length >= 3))
const missing = computed(() => rooms.value.length - drawn.value.length)
const picked = ref<string | null>(null)
const room = computed(() => rooms.value.find((r) => r.room.id === picked.value) ?? rooms.value[0] ?? null)
const text = ref('')
watch(room, (r) => (text.value = sayCorners(r ? outlineOf(r) : [])), { immediate: true })
const corners = computed(() => readCorners(text.value))
const box = computed(() => boxOf([...drawn.value.map((r) => ({ outline: outlineOf(r) })), { outline: corners.value.list }], 1))
const points = (list: readonly { x: number; y: number }[]) => list.map((c) => `${c.x},${c.y}`).join(' ')
const middle = (list: readonly { x: number; y: number }[], axis: 'x' | 'y') => list.reduce((s, c) => s + c[axis], 0) / list.length
/** Letter height in metres: as wide as the room lets its name be, and no larger than the eye needs. */
function letters(r: Room) {
  const xs = outlineOf(r).map((c) => c.x)
  return Math.min(box.value.w / 55, (Math.max(...xs) - Math.min(...xs)) / (Math.max(4, r.room.name.length) * 0.74))
}
const save = (r: Room) =>
  attempt(async () => {
    if (corners.value.bad) throw new Error(`‘${corners.value.bad}’ is not a corner. Write each as x,y in metres, such as 0,0 10,0 10,7 0,7.`)
    await change([put('place', { ...r.room, outline: corners.value.list }, r.revision)], `Drew the outline of ‘${r.room.name}’`)
  }, 'Outline saved')
const propose = () => attempt(() => post('/floors/{id}/outlines', { path: { id: line.value!.id } }))
const columns: Column<Room>[] = [
  { key: 'name', title: 'Room', sort: (r) => r.room.name },
  { key: 'entered', title: 'Entered', width: 92, isNumber: true, sort: (r) => r.room.areaSquareMetres ?? 0 },
  { key: 'drawn', title: 'Drawn', width: 92, isNumber: true, sort: (r) => areaOf(outlineOf(r)) },
]
</script>

<template>
  <PageShell lede="the floor views of operators are made from these" :problem="problem" @again="reload">
    <template v-if="current" #facts
      ><RecordPicker
        nouns="floor"
        reverts
        :says="`${line?.building} › ${current.floor.name}`"
        aria-label="Floor"
        style="width: 230px"
        @choose="(f) => f && router.push(`/draw/${f.id}`)"
    /></template>
    <template v-if="missing && store.may('engineer')" #actions
      ><NButton id="propose" type="primary" @click="propose">Propose {{ missing }} from areas</NButton></template
    >
    <EmptyState v-if="floors && !line" title="No rooms yet">
      Add a floor and its rooms under Plan; then give them outlines here.
      <template #next><LinkButton to="/plan" main>Plan</LinkButton></template>
    </EmptyState>
    <div v-else-if="current" class="cols">
      <svg class="sheet plan" :viewBox="`${box.x} ${box.y} ${box.w} ${box.h}`" role="group" aria-label="Outlines of the floor">
        <g
          v-for="r in drawn"
          :key="r.room.id"
          tabindex="0"
          role="button"
          :aria-label="r.room.name"
          @click="picked = r.room.id"
          @keydown.enter="picked = r.room.id"
        >
          <polygon :points="points(outlineOf(r))" :class="{ on: r === room }" />
          <text :x="middle(outlineOf(r), 'x')" :y="middle(outlineOf(r), 'y')" :font-size="letters(r)">{{ r.room.name }}</text>
        </g>
        <polygon v-if="corners.list.length >= 3" :points="points(corners.list)" class="draft" />
      </svg>
      <RecordTable
        v-model:chosen="picked"
        class="rooms"
        :rows="rooms"
        :columns="columns"
        :id="(r) => r.room.id"
        noun="room"
        plural="rooms"
        :words="(r) => r.room.name"
        :most="260"
      >
        <template #name="{ row: r }"
          ><b>{{ r.room.name }}</b> <FactTag v-if="outlineOf(r).length < 3" tone="amber">none yet</FactTag></template
        >
        <template #entered="{ row: r }">{{ r.room.areaSquareMetres ? `${r.room.areaSquareMetres} m²` : '–' }}</template>
        <template #drawn="{ row: r }">{{ outlineOf(r).length >= 3 ? `${areaOf(outlineOf(r)).toFixed(1)} m²` : '–' }}</template>
      </RecordTable>
      <form v-if="room" class="sheet side" @submit.prevent="save(room)">
        <h2>{{ room.room.name }}</h2>
        <p class="dim">Corners in order around the room, each as x,y in metres east and south of the floor’s origin:</p>
        <TextBox v-model="text" type="textarea" mono :rows="5" :disabled="!store.may('engineer')" placeholder="0,0 10,0 10,7 0,7" aria-label="Corners" />
        <p v-if="corners.bad" class="wrong">✕ ‘{{ corners.bad }}’ is not a corner.</p>
        <p v-else-if="corners.list.length >= 3" class="dim">
          Encloses <span class="mono">{{ areaOf(corners.list).toFixed(1) }} m²</span
          >{{ room.room.areaSquareMetres ? `; the room is entered with ${room.room.areaSquareMetres} m²` : '' }}.
        </p>
        <p class="acts"><NButton type="primary" attr-type="submit" :disabled="!store.may('engineer')">Save the outline</NButton></p>
      </form>
    </div>
  </PageShell>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 380px;
  gap: 12px;
  align-items: start;
}
.plan {
  width: 100%;
  max-height: calc(100vh - 210px);
  grid-row: span 2;
}
.side {
  display: grid;
  gap: 8px;
}
polygon {
  fill: var(--paper);
  stroke: var(--ink-2);
  stroke-width: 0.1;
  cursor: pointer;
}
polygon.on {
  fill: var(--plum-soft);
}
polygon.draft {
  fill: none;
  stroke: var(--plum);
  stroke-width: 0.15;
  stroke-dasharray: 0.4 0.25;
  pointer-events: none;
}
text {
  text-anchor: middle;
  fill: var(--ink);
  font-family: var(--serif);
  pointer-events: none;
}
</style>
