<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { change, put } from '../shared/api/records'
import { get, type Schemas } from '../shared/api/http'
import { useLoaded, useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

const props = defineProps<{ floor?: string }>()
const store = useStore()
const router = useRouter()
const attempt = useDo()
const { value: floors } = useLoaded<Schemas['FloorLine'][]>(() => get('/floors'), undefined, ['place'])
const line = computed(() => floors.value?.find((f) => f.id === props.floor) ?? floors.value?.find((f) => f.rooms) ?? null)
const { value: section } = useLoaded<Schemas['Section']>(
  () => (line.value ? get(`/buildings/${line.value.buildingId}/section`) : null),
  () => line.value?.buildingId,
  ['place', 'equipment', 'point', 'fitting', 'sequence', 'schedule', 'trend', 'alarm'],
)
const current = computed(() => section.value?.floors.find((f) => f.floor.id === line.value?.id) ?? null)
const picked = ref<string | null>(null)
const room = computed(() => current.value?.rooms.find((r) => r.room.id === picked.value) ?? current.value?.rooms[0] ?? null)
const text = ref('')
watch(room, (r) => (text.value = (r?.room.outline ?? []).map((c) => `${c.x},${c.y}`).join('  ')), { immediate: true })
const corners = computed(() => {
  const parts = text.value
    .trim()
    .split(/[\s;]+/)
    .filter(Boolean)
  const list = parts.map((p) => p.split(',').map(Number))
  const bad = parts.find((_, i) => list[i]!.length !== 2 || list[i]!.some(Number.isNaN))
  return { bad, list: list.map(([x, y]) => ({ x: x!, y: y! })) }
})
const enclosed = computed(() => {
  const c = corners.value.list
  return Math.abs(c.reduce((sum, a, i) => sum + a.x * c[(i + 1) % c.length]!.y - c[(i + 1) % c.length]!.x * a.y, 0)) / 2
})
const box = computed(() => {
  const all = [...(current.value?.rooms ?? []).flatMap((r) => r.room.outline ?? []), ...(corners.value.bad ? [] : corners.value.list)]
  if (!all.length) return { x: 0, y: 0, w: 20, h: 12 }
  const [x, y] = [Math.min(...all.map((c) => c.x)) - 1, Math.min(...all.map((c) => c.y)) - 1]
  return { x, y, w: Math.max(...all.map((c) => c.x)) - x + 1, h: Math.max(...all.map((c) => c.y)) - y + 1 }
})
/** Letter height in metres: as wide as the room lets its name be, and no larger than the eye needs. */
function letters(room: Schemas['Place']) {
  const xs = room.outline!.map((c) => c.x)
  return Math.min(box.value.w / 55, (Math.max(...xs) - Math.min(...xs)) / (Math.max(4, room.name.length) * 0.74))
}
async function save() {
  const r = room.value!
  await attempt(async () => {
    if (corners.value.bad) throw new Error(`‘${corners.value.bad}’ is not a corner. Write each as x,y in metres, such as 0,0 10,0 10,7 0,7.`)
    await change([put('place', { ...r.room, outline: corners.value.list }, Number(r.revision))], `Drew the outline of ‘${r.room.name}’`)
  }, 'Outline saved')
}
/** Rooms without an outline as rectangles of their area, in a row beside what is drawn: a start to go on from. */
async function propose() {
  const rooms = current.value!.rooms.filter((r) => (r.room.outline?.length ?? 0) < 3)
  let x = Math.max(0, ...current.value!.rooms.flatMap((r) => (r.room.outline ?? []).map((c) => c.x)))
  const depth = 6
  const edits = rooms.map((r) => {
    const w = Math.round(((r.room.areaSquareMetres ?? 20) / depth) * 10) / 10
    const outline = [
      { x, y: 0 },
      { x: x + w, y: 0 },
      { x: x + w, y: depth },
      { x, y: depth },
    ]
    x = Math.round((x + w) * 10) / 10
    return put('place', { ...r.room, outline }, Number(r.revision))
  })
  await attempt(() => change(edits, `Proposed outlines for ${edits.length} rooms of ‘${current.value!.floor.name}’`))
}
const missing = computed(() => current.value?.rooms.filter((r) => (r.room.outline?.length ?? 0) < 3).length ?? 0)
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Outlines</h1>
      <select
        v-if="current"
        class="field"
        :value="current.floor.id"
        aria-label="Floor"
        @change="router.push(`/draw/${($event.target as HTMLSelectElement).value}`)"
      >
        <option v-for="f in floors" :key="f.id" :value="f.id">{{ f.building }} · {{ f.name }}</option>
      </select>
      <span class="dim">the floor views of operators are made from these</span><span class="space" />
      <button v-if="missing && store.may('engineer')" id="propose" class="btn main" @click="propose">Propose {{ missing }} from areas</button>
    </div>
    <div v-if="floors && !line" class="sheet empty">
      <h2>No rooms yet</h2>
      <p>Add a floor and its rooms under Plan; then give them outlines here.</p>
    </div>
    <div v-else-if="current" class="cols">
      <svg class="sheet plan" :viewBox="`${box.x} ${box.y} ${box.w} ${box.h}`">
        <g
          v-for="r in current.rooms"
          :key="r.room.id"
          tabindex="0"
          role="button"
          :aria-label="r.room.name"
          @click="picked = r.room.id"
          @keydown.enter="picked = r.room.id"
        >
          <template v-if="(r.room.outline?.length ?? 0) >= 3">
            <polygon :points="r.room.outline!.map((c) => `${c.x},${c.y}`).join(' ')" :class="{ on: r.room.id === room?.room.id }" />
            <text
              :x="r.room.outline!.reduce((s, c) => s + c.x, 0) / r.room.outline!.length"
              :y="r.room.outline!.reduce((s, c) => s + c.y, 0) / r.room.outline!.length"
              :font-size="letters(r.room)"
            >
              {{ r.room.name }}
            </text>
          </template>
        </g>
        <polygon v-if="!corners.bad && corners.list.length >= 3" :points="corners.list.map((c) => `${c.x},${c.y}`).join(' ')" class="draft" />
      </svg>
      <div class="sheet side">
        <label class="row"
          ><span>Room</span
          ><select :value="room?.room.id" class="field" @change="picked = ($event.target as HTMLSelectElement).value">
            <option v-for="r in current.rooms" :key="r.room.id" :value="r.room.id">
              {{ r.room.name }}{{ (r.room.outline?.length ?? 0) < 3 ? ' (none yet)' : '' }}
            </option>
          </select></label
        >
        <form v-if="room" @submit.prevent="save">
          <p class="dim">Corners in order around the room, each as x,y in metres east and south of the floor’s origin:</p>
          <textarea v-model="text" class="field mono" rows="6" :disabled="!store.may('engineer')" placeholder="0,0 10,0 10,7 0,7" aria-label="Corners" />
          <p v-if="corners.bad" class="wrong">✕ ‘{{ corners.bad }}’ is not a corner.</p>
          <p v-else-if="corners.list.length >= 3" class="dim">
            Encloses <span class="mono">{{ enclosed.toFixed(1) }} m²</span
            >{{ room.room.areaSquareMetres ? `; the room is entered with ${room.room.areaSquareMetres} m²` : '' }}.
          </p>
          <button class="btn main" :disabled="!store.may('engineer')">Save the outline</button>
        </form>
      </div>
    </div>
  </div>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 12px;
  align-items: start;
}
.plan {
  width: 100%;
  max-height: calc(100vh - 210px);
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
textarea {
  width: 100%;
}
.side label.row {
  grid-template-columns: 60px 1fr;
}
</style>
