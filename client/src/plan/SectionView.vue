<script setup lang="ts">
import { nextTick, ref } from 'vue'
import { useStore } from '../shared/store'
import type { Schemas } from '../shared/api/http'
import { change, put, type Equipment, type Place } from '../shared/api/records'
import { useDo } from '../shared/useDo'

/** A building as a section: floors above each other, rooms as wide as they are large, equipment as chips in them. Everything is renamed, moved and removed where it stands. */
const props = defineProps<{ section: Schemas['Section']; scope: string | null }>()
const emit = defineEmits<{ pick: [id: string]; add: []; remove: [id: string]; move: [id: string]; drop: [id: string, to: string] }>()
const store = useStore()
const attempt = useDo()
const renaming = ref<string | null>(null)
const newName = ref('')
const root = ref<HTMLElement>()
const may = () => store.may('engineer')
let dragged: string | null = null

function startRename(id: string, name: string) {
  if (!may()) return
  renaming.value = id
  newName.value = name
  void nextTick(() => root.value?.querySelector<HTMLInputElement>('[data-rename]')?.select())
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
  const tile = root.value?.querySelector<HTMLElement>(`[data-tile="${id}"]`)
  // Whoever has gone elsewhere meanwhile is not called back; home is where the focus was once a closing box had given it back.
  if (home && document.activeElement !== home && document.activeElement !== document.body) return
  if (tile && !tile.querySelector('[data-rename]')) tile.focus()
  else if (tries) setTimeout(() => focusTile(id, tries - 1, home ?? document.activeElement), 50)
}
function key(e: KeyboardEvent, id: string, name: string) {
  if ((e.target as HTMLElement).tagName === 'INPUT') return
  const letter = e.key.toLowerCase()
  if (e.key.startsWith('Arrow')) {
    const tiles = [...root.value!.querySelectorAll<HTMLElement>('[data-tile]')]
    tiles[tiles.indexOf(e.target as HTMLElement) + (e.key === 'ArrowRight' || e.key === 'ArrowDown' ? 1 : -1)]?.focus()
  } else if (!may() || e.ctrlKey || e.metaKey) return
  else if (e.key === 'F2') startRename(id, name)
  else if (e.key === 'Delete') emit('remove', id)
  else if (letter === 'm') emit('move', id)
  else if (letter === 'a') {
    emit('pick', id)
    emit('add')
  } else return
  e.preventDefault()
  e.stopPropagation()
}
function drop(to: string) {
  if (dragged && dragged !== to) emit('drop', dragged, to)
  dragged = null
}
/** What equipment is called inside its room's tile: the room's own name need not be said twice. */
const inRoom = (name: string, room: string) => {
  if (!name.toLowerCase().startsWith(`${room.toLowerCase()} `)) return name
  const rest = name.slice(room.length + 1)
  return rest.charAt(0).toUpperCase() + rest.slice(1)
}
const tile = (type: 'place' | 'equipment', record: Place | Equipment, revision: number) => ({
  'data-tile': record.id,
  tabindex: 0,
  class: { on: props.scope === record.id },
  onClick: (e: Event) => (e.stopPropagation(), emit('pick', record.id)),
  onFocus: () => emit('pick', record.id),
  onDblclick: (e: Event) => (e.stopPropagation(), startRename(record.id, record.name)),
  onKeydown: (e: KeyboardEvent) => key(e, record.id, record.name),
  onFocusout: (e: FocusEvent) => (e.target as HTMLElement).tagName === 'INPUT' && rename(type, record, revision),
  onKeydownCapture: (e: KeyboardEvent) => {
    if ((e.target as HTMLElement).tagName !== 'INPUT' || !['Enter', 'Escape'].includes(e.key)) return
    e.stopPropagation()
    if (e.key === 'Enter') void rename(type, record, revision)
    else renaming.value = null
  },
})
const drags = (id: string) => ({
  draggable: may(),
  onDragstart: (e: Event) => (e.stopPropagation(), (dragged = id)),
  onDragover: (e: Event) => e.preventDefault(),
  onDrop: (e: Event) => (e.preventDefault(), e.stopPropagation(), drop(id)),
})
defineExpose({ focusTile })
</script>

<template>
  <div ref="root" class="section sheet" role="group" aria-label="Section of the building">
    <div v-for="f in section.floors" :key="f.floor.id" class="floor" @dragover.prevent @drop.prevent="drop(f.floor.id)">
      <div class="floor-name" v-bind="tile('place', f.floor, f.revision)">
        <TextBox v-if="renaming === f.floor.id" v-model="newName" data-rename aria-label="New name" />
        <h2 v-else>{{ f.floor.name }}</h2>
        <span class="dim">{{ f.rooms.length }} rooms · {{ Math.round(f.area) }}&nbsp;m²</span>
      </div>
      <div class="rooms">
        <div
          v-for="r in f.rooms"
          :key="r.room.id"
          class="room"
          :style="{ flexGrow: Math.max(8, r.room.areaSquareMetres ?? 20) }"
          v-bind="{ ...tile('place', r.room, r.revision), ...drags(r.room.id) }"
        >
          <TextBox v-if="renaming === r.room.id" v-model="newName" data-rename aria-label="New name" />
          <b v-else>{{ r.room.name }} <span v-if="r.findings" class="mark" :title="`${r.findings} finding${r.findings === 1 ? '' : 's'}`">▲</span></b>
          <div class="chips">
            <span
              v-for="e in r.equipment"
              :key="e.equipment.id"
              class="chip"
              :data-service="e.service"
              :title="`${e.equipment.name} · ${e.equipment.kind} · ${e.points} points`"
              v-bind="{ ...tile('equipment', e.equipment, e.revision), ...drags(e.equipment.id) }"
            >
              <TextBox v-if="renaming === e.equipment.id" v-model="newName" data-rename size="small" aria-label="New name" />
              <template v-else>{{ inRoom(e.equipment.name, r.room.name) }}</template>
            </span>
          </div>
        </div>
        <p v-if="!f.rooms.length" class="dim">No room yet: choose this floor and press A.</p>
      </div>
    </div>
    <p v-if="!section.floors.length" class="empty">No floor yet. “Add…” makes one.</p>
  </div>
</template>

<style scoped>
.section {
  padding: 0;
  overflow: auto;
  flex: none;
  max-height: 54vh;
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
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.chip[data-service='heat'] {
  background: var(--ember-soft);
  color: var(--ember);
}
.chip[data-service='air'] {
  background: var(--sky-soft);
  color: var(--sky);
}
.chip[data-service='light'] {
  background: var(--amber-soft);
  color: var(--amber);
}
.chip.on {
  border-color: var(--plum);
}
</style>
