<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { change, put, type Equipment, type Place } from '../shared/api/records'
import { get, type Schemas } from '../shared/api/http'
import { useLoaded, useStore } from '../shared/store'
import { count } from '../shared/numbers'
import { useDo } from '../shared/useDo'
import { matching } from '../shared/words'
import AddBox from './AddBox.vue'
import PlanTabs from './PlanTabs.vue'
import RecordsTable from './RecordsTable.vue'
import RemoveBox from './RemoveBox.vue'
import ModalBox from '../shared/ModalBox.vue'

const props = defineProps<{ place?: string }>()
const store = useStore()
const route = useRoute()
const router = useRouter()
const attempt = useDo()
const picked = ref<string | null>(null)
const adding = ref(false)
const removing = ref<string[] | null>(null)
const renaming = ref<string | null>(null)
const newName = ref('')
const moving = ref<string | null>(null)
const { value: buildings } = useLoaded<Place[]>(() => get('/buildings'), undefined, ['place'])
const { value: crumbs } = useLoaded<Schemas['Crumb'][]>(
  () => (props.place ? get(`/places/${props.place}/crumbs`) : null),
  () => props.place,
  ['place', 'equipment'],
)
const buildingId = computed(() => (props.place && crumbs.value?.find((c) => c.kind === 'building')?.id) || buildings.value?.[0]?.id || null)
const { value: section } = useLoaded<Schemas['Section']>(
  () => (buildingId.value ? get(`/buildings/${buildingId.value}/section`) : null),
  () => buildingId.value,
  ['place', 'equipment', 'point', 'fitting', 'sequence', 'schedule', 'trend', 'alarm'],
)
const scope = computed(() => picked.value ?? props.place ?? section.value?.building.id ?? null)
const rooms = computed(() => section.value?.floors.flatMap((f) => f.rooms.map((r) => ({ ...r, floor: f.floor }))) ?? [])
const label = computed(() => {
  for (const f of section.value?.floors ?? []) {
    if (f.floor.id === scope.value) return f.floor.name
    for (const r of f.rooms) {
      if (r.room.id === scope.value) return r.room.name
      for (const e of r.equipment) if (e.equipment.id === scope.value) return `${r.room.name} · ${e.equipment.name}`
    }
  }
  return section.value?.building.name ?? ''
})
watch(
  () => props.place,
  (p) => (picked.value = p ?? null),
  { immediate: true },
)
watch(
  () => route.query.add,
  (a) => a && (adding.value = true),
  { immediate: true },
)

function colour(kind: string) {
  if (['kiln', 'boiler', 'fan-coil', 'radiator'].includes(kind)) return 'ember'
  if (['extract fan', 'dust extract', 'air handler', 'heat pump', 'pump'].includes(kind)) return 'sky'
  if (kind === 'lighting') return 'amber'
  return ''
}
function pick(id: string) {
  picked.value = id
}
function startRename(id: string, name: string) {
  if (!store.may('engineer')) return
  renaming.value = id
  newName.value = name
  void nextTick(() => document.querySelector<HTMLInputElement>('.rename')?.select())
}
async function rename(type: 'place' | 'equipment', record: Place | Equipment, revision: number) {
  if (renaming.value !== record.id) return
  renaming.value = null
  const name = newName.value.trim()
  if (name && name !== record.name) await attempt(() => change([put(type, { ...record, name }, revision)]))
  focusTile(record.id)
}
/** Brings the focus to a tile; one that was just added comes with the next answer of the server. */
function focusTile(id: string, tries = 40, home: Element | null = null) {
  const tile = document.querySelector<HTMLElement>(`[data-tile="${id}"]`)
  // Whoever has gone elsewhere meanwhile is not called back; home is where the focus was once a closing box had given it back.
  if (home && document.activeElement !== home && document.activeElement !== document.body) return
  if (tile && !tile.querySelector('.rename')) tile.focus()
  else if (tries) setTimeout(() => focusTile(id, tries - 1, home ?? document.activeElement), 50)
}
function key(e: KeyboardEvent, id: string, name: string) {
  if ((e.target as HTMLElement).classList.contains('rename')) return
  if (e.key === 'F2') startRename(id, name)
  else if (e.key === 'Delete' && store.may('engineer')) removing.value = [id]
  else if (e.key === 'm' && store.may('engineer')) moving.value = id
  else if (e.key === 'a' && store.may('engineer')) {
    pick(id)
    adding.value = true
  } else if (e.key.startsWith('Arrow')) {
    const tiles = [...document.querySelectorAll<HTMLElement>('[data-tile]')]
    const at = tiles.indexOf(e.target as HTMLElement)
    tiles[at + (e.key === 'ArrowRight' || e.key === 'ArrowDown' ? 1 : -1)]?.focus()
  } else return
  e.preventDefault()
  e.stopPropagation()
}
/** A room goes to a floor, equipment to a room: of this building by drag, of any by command. */
function isTarget(what: 'place' | 'equipment', to: string) {
  const all = [...(section.value ? [section.value] : []), ...sections.value].flatMap((s) => s.floors)
  return what === 'place' ? all.some((f) => f.floor.id === to) : all.some((f) => f.rooms.some((r) => r.room.id === to))
}
const vFocus = { mounted: (e: HTMLElement) => e.focus() }
let dragged: { type: 'place' | 'equipment'; id: string } | null = null
async function move(to: string, what = dragged) {
  dragged = null
  moving.value = null
  if (!what || what.id === to) return
  const room = rooms.value.find((r) => r.room.id === what.id)
  const chip = rooms.value.flatMap((r) => r.equipment).find((e) => e.equipment.id === what.id)
  if (room && room.room.in !== to && isTarget('place', to))
    await attempt(() => change([put('place', { ...room.room, in: to }, room.revision)]), `Moved ${room.room.name}`)
  else if (chip && chip.equipment.placeId !== to && isTarget('equipment', to))
    await attempt(() => change([put('equipment', { ...chip.equipment, placeId: to }, chip.revision)]), `Moved ${chip.equipment.name}`)
  focusTile(what.id)
}
const movingType = computed(() => (rooms.value.some((r) => r.room.id === moving.value) ? 'place' : 'equipment'))
const sections = ref<Schemas['Section'][]>([])
const moveWords = ref('')
watch(moving, async (m) => {
  moveWords.value = ''
  if (m) sections.value = await Promise.all((buildings.value ?? []).map((b) => get<Schemas['Section']>(`/buildings/${b.id}/section`)))
})
/** Where what is being moved can go, in this building first. */
const targets = computed(() => {
  const here = (s: Schemas['Section']) => (s.building.id === buildingId.value ? 0 : 1)
  const all = [...sections.value]
    .sort((a, b) => here(a) - here(b))
    .flatMap((s) =>
      s.floors.flatMap((f) => {
        const name = `${s.building.name} › ${f.floor.name}`
        return movingType.value === 'place' ? [{ id: f.floor.id, name }] : f.rooms.map((r) => ({ id: r.room.id, name: `${name} › ${r.room.name}` }))
      }),
    )
  return matching(all, (t) => t.name, moveWords.value)
})
/** What equipment is called inside its room's tile: the room's own name need not be said twice. */
const inRoom = (name: string, room: string) => {
  if (!name.toLowerCase().startsWith(`${room.toLowerCase()} `)) return name
  const rest = name.slice(room.length + 1)
  return rest.charAt(0).toUpperCase() + rest.slice(1)
}
</script>

<template>
  <div class="page plan">
    <div class="head">
      <h1>{{ section?.building.name ?? 'Plan' }}</h1>
      <template v-if="section">
        <span class="pill">{{ section.floors.length }} floors</span><span class="pill">{{ count(rooms.length) }} rooms</span
        ><span class="pill">{{ count(section.equipment) }} equipment</span><span class="pill">{{ count(section.points) }} points</span>
      </template>
      <span class="space" />
      <span v-if="(buildings?.length ?? 0) > 1" class="tabs"
        ><button v-for="b in buildings" :key="b.id" :class="{ on: b.id === buildingId }" @click="router.push(`/plan/${b.id}`)">
          {{ b.name }}
        </button></span
      >
      <button v-if="store.may('engineer')" id="add" class="btn main" @click="adding = true">Add…</button>
      <PlanTabs />
    </div>
    <div v-if="buildings && !buildings.length" class="sheet empty">
      <h2>No building yet</h2>
      <p>
        Add a building, then its floors and rooms; or <RouterLink to="/list/import">import a list</RouterLink> of them. Everything else finds its place in them.
      </p>
    </div>
    <div v-if="section" class="section sheet" :class="{ many: rooms.length > 60 }" role="tree" aria-label="Section of the building">
      <div v-for="f in section.floors" :key="f.floor.id" class="floor" @dragover.prevent @drop.prevent="move(f.floor.id)">
        <div
          class="floor-name"
          :class="{ on: scope === f.floor.id }"
          tabindex="0"
          role="treeitem"
          :data-tile="f.floor.id"
          @click="pick(f.floor.id)"
          @focus="pick(f.floor.id)"
          @keydown="key($event, f.floor.id, f.floor.name)"
          @dblclick="startRename(f.floor.id, f.floor.name)"
        >
          <input
            v-if="renaming === f.floor.id"
            v-model="newName"
            class="field rename"
            @keydown.enter.stop="rename('place', f.floor, f.revision)"
            @keydown.esc.stop="renaming = null"
            @blur="rename('place', f.floor, f.revision)"
          />
          <h2 v-else>{{ f.floor.name }}</h2>
          <span class="dim">{{ f.rooms.length }} rooms · {{ Math.round(f.area) }}&nbsp;m²</span>
        </div>
        <div class="rooms">
          <div
            v-for="r in f.rooms"
            :key="r.room.id"
            class="room"
            :class="{ on: scope === r.room.id }"
            :style="{ flexGrow: Math.max(8, r.room.areaSquareMetres ?? 20) }"
            :data-tile="r.room.id"
            tabindex="0"
            role="treeitem"
            :draggable="store.may('engineer')"
            @dragstart.self="dragged = { type: 'place', id: r.room.id }"
            @dragover.prevent.stop
            @drop.prevent.stop="move(r.room.id)"
            @click="pick(r.room.id)"
            @focus="pick(r.room.id)"
            @dblclick="startRename(r.room.id, r.room.name)"
            @keydown="key($event, r.room.id, r.room.name)"
          >
            <input
              v-if="renaming === r.room.id"
              v-model="newName"
              class="field rename"
              @keydown.enter.stop="rename('place', r.room, r.revision)"
              @keydown.esc.stop="renaming = null"
              @blur="rename('place', r.room, r.revision)"
            />
            <b v-else>{{ r.room.name }} <span v-if="r.findings" class="mark" :title="`${r.findings} finding${Number(r.findings) === 1 ? '' : 's'}`">▲</span></b>
            <div class="chips">
              <span
                v-for="e in r.equipment"
                :key="e.equipment.id"
                :class="['chip', colour(e.equipment.kind), { on: scope === e.equipment.id }]"
                tabindex="0"
                :data-tile="e.equipment.id"
                :title="`${e.equipment.name} · ${e.equipment.kind} · ${e.points} points`"
                :draggable="store.may('engineer')"
                @dragstart.stop="dragged = { type: 'equipment', id: e.equipment.id }"
                @click.stop="pick(e.equipment.id)"
                @focus.stop="pick(e.equipment.id)"
                @dblclick.stop="startRename(e.equipment.id, e.equipment.name)"
                @keydown.stop="key($event, e.equipment.id, e.equipment.name)"
              >
                <input
                  v-if="renaming === e.equipment.id"
                  v-model="newName"
                  class="field rename"
                  @keydown.enter.stop="rename('equipment', e.equipment, e.revision)"
                  @keydown.esc.stop="renaming = null"
                  @blur="rename('equipment', e.equipment, e.revision)"
                />
                <template v-else>{{ inRoom(e.equipment.name, r.room.name) }}</template>
              </span>
            </div>
          </div>
          <p v-if="!f.rooms.length" class="dim">No room yet: choose this floor and press A.</p>
        </div>
      </div>
      <p v-if="!section.floors.length" class="empty">No floor yet. “Add…” makes one.</p>
    </div>
    <p v-if="section" class="dim keys">
      <kbd>←</kbd><kbd>→</kbd> walk · <kbd>A</kbd> add here · <kbd>F2</kbd> rename · <kbd>M</kbd> move · <kbd>Del</kbd> remove · or drag a room to a floor,
      equipment to a room
    </p>
    <RecordsTable v-if="scope" :scope="scope" :title="label" @remove="(ids) => (removing = ids)" />
    <AddBox v-if="adding" :scope="scope" :section="section ?? null" @close="(id) => ((adding = false), id && (focusTile(id), (picked = id)))" />
    <RemoveBox v-if="removing" :ids="removing" @close="removing = null" />
    <ModalBox v-if="moving" label="Move to" @close="moving = null">
      <h2>Move to</h2>
      <input
        v-model="moveWords"
        v-focus
        class="field"
        placeholder="words of its name"
        aria-label="Words of where to"
        @keydown.enter.stop="targets[0] && move(targets[0].id, { type: movingType, id: moving })"
      />
      <button v-for="t in targets.slice(0, 60)" :key="t.id" class="btn" @click="move(t.id, { type: movingType, id: moving })">
        {{ t.name }}
      </button>
      <p v-if="!targets.length" class="dim">Nothing of that name can take it.</p>
    </ModalBox>
  </div>
</template>

<style scoped>
.section {
  padding: 0;
  overflow: hidden;
  flex: none;
}
.section.many {
  max-height: 54vh;
  overflow: auto;
}
.floor {
  display: flex;
  border-bottom: 2px solid var(--rule);
}
.floor:last-of-type {
  border-bottom: 0;
}
.floor-name {
  width: 120px;
  flex: none;
  padding: 8px 12px;
  border-right: 1px dashed var(--rule);
  cursor: pointer;
  background: var(--paper);
}
.floor-name.on h2 {
  color: var(--plum);
}
.rooms {
  flex: 1;
  display: flex;
  flex-wrap: wrap;
  gap: 7px;
  padding: 7px 9px;
  min-width: 0;
}
.room {
  border: 1px solid var(--rule);
  border-radius: 8px;
  padding: 5px 9px;
  flex-basis: 105px;
  min-height: 54px;
  cursor: pointer;
  background: var(--sheet);
  min-width: 0;
}
.room.on {
  border-color: var(--plum);
  box-shadow: 0 0 0 2px var(--plum-soft);
}
.mark {
  color: var(--amber);
  font-size: 11px;
}
.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 3px 4px;
  margin-top: 3px;
}
.chip {
  background: var(--sunk);
  border-radius: 5px;
  padding: 0 6px;
  font-size: 12px;
  border: 1px solid transparent;
  white-space: nowrap;
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.chip.ember {
  background: var(--ember-soft);
  color: var(--ember);
}
.chip.sky {
  background: var(--sky-soft);
  color: var(--sky);
}
.chip.amber {
  background: var(--amber-soft);
  color: var(--amber);
}
.chip.on {
  border-color: var(--plum);
}
.rename {
  width: 100%;
}
.keys {
  font-size: 12.5px;
  margin: -6px 0 0;
}
</style>
