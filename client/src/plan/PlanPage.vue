<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useShown } from '../shared/api/cache'
import { change, put } from '../shared/api/records'
import { count } from '../shared/numbers'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import AddBox from './AddBox.vue'
import FirstSteps from './FirstSteps.vue'
import SectionView from './SectionView.vue'

const props = defineProps<{ place?: string }>()
const store = useStore()
const route = useRoute()
const router = useRouter()
const attempt = useDo()
const picked = ref<string | null>(null)
const adding = ref(false)
const removing = ref<string[] | null>(null)
const moving = ref<string | null>(null)
const view = ref<InstanceType<typeof SectionView>>()
const { value: buildings } = useShown('/buildings', () => ({}), ['place'])
const { value: crumbs } = useShown('/places/{id}/crumbs', () => (props.place ? { path: { id: props.place } } : null), ['place', 'equipment'])
const buildingId = computed(() => {
  if (!props.place) return buildings.value?.[0]?.id ?? null
  return crumbs.value ? (crumbs.value.find((c) => c.kind === 'building')?.id ?? buildings.value?.[0]?.id ?? null) : null
})
const {
  value: section,
  problem,
  reload,
} = useShown('/buildings/{id}/section', () => (buildingId.value ? { path: { id: buildingId.value } } : null), [
  'place',
  'equipment',
  'point',
  'fitting',
  'sequence',
  'schedule',
  'trend',
  'alarm',
])
const scope = computed(() => picked.value ?? props.place ?? section.value?.building.id ?? null)
const rooms = computed(() => section.value?.floors.flatMap((f) => f.rooms) ?? [])
const chips = computed(() => rooms.value.flatMap((r) => r.equipment.map((e) => ({ ...e, room: r.room }))))
const label = computed(() => {
  const id = scope.value
  const chip = chips.value.find((e) => e.equipment.id === id)
  const place = section.value?.floors.find((f) => f.floor.id === id)?.floor ?? rooms.value.find((r) => r.room.id === id)?.room
  return chip ? `${chip.room.name} · ${chip.equipment.name}` : (place?.name ?? section.value?.building.name ?? '')
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
const movingType = computed(() => (rooms.value.some((r) => r.room.id === moving.value) ? 'place' : 'equipment'))
/** A room goes to a floor, equipment to a room; where it cannot go the server says so. */
async function move(id: string, to: string) {
  moving.value = null
  const room = rooms.value.find((r) => r.room.id === id)
  const chip = chips.value.find((e) => e.equipment.id === id)
  const isRoom = rooms.value.some((r) => r.room.id === to)
  // Dropped on a tile beside it, a room means the floor that this one is on.
  const onto = room && isRoom ? section.value!.floors.find((f) => f.rooms.some((r) => r.room.id === to))!.floor.id : to
  if (room && room.room.in !== onto) await attempt(() => change([put('place', { ...room.room, in: onto }, room.revision)]), `Moved ${room.room.name}`)
  else if (chip && chip.equipment.placeId !== to)
    await attempt(() => change([put('equipment', { ...chip.equipment, placeId: to }, chip.revision)]), `Moved ${chip.equipment.name}`)
  view.value?.focusTile(id)
}
function added(id?: string) {
  adding.value = false
  if (!id) return
  picked.value = id
  view.value?.focusTile(id)
}
</script>

<template>
  <PageShell :title="section?.building.name ?? 'Plan'" class="plan" :problem="problem" @again="reload">
    <template v-if="section" #facts>
      <FactTag>{{ section.floors.length }} floors</FactTag><FactTag>{{ count(rooms.length) }} rooms</FactTag
      ><FactTag>{{ count(section.equipment) }} equipment</FactTag><FactTag>{{ count(section.points) }} points</FactTag>
    </template>
    <template #actions>
      <PickOne
        v-if="(buildings?.length ?? 0) > 1"
        :model-value="buildingId"
        :options="buildings!.map((b) => ({ value: b.id, label: b.name }))"
        aria-label="Building"
        style="width: 160px"
        @update:model-value="(b: string) => router.push(`/plan/${b}`)"
      />
      <NButton v-if="store.may('engineer')" id="add" type="primary" @click="adding = true">Add…</NButton>
    </template>
    <FirstSteps v-if="buildings" />
    <EmptyState v-if="buildings && !buildings.length" title="No building yet">
      Add a building, then its floors and rooms; or import a list of them. Everything else finds its place in them.
      <template v-if="store.may('engineer')" #next><LinkButton to="/list/import">Import a list</LinkButton></template>
    </EmptyState>
    <template v-if="section">
      <SectionView
        ref="view"
        :section="section"
        :scope="scope"
        @pick="(id) => (picked = id)"
        @add="adding = true"
        @remove="(id) => (removing = [id])"
        @move="(id) => (moving = id)"
        @drop="move"
      />
      <p class="dim keys">
        <kbd>←</kbd><kbd>→</kbd> walk · <kbd>A</kbd> add here · <kbd>F2</kbd> rename · <kbd>M</kbd> move · <kbd>Del</kbd> remove · or drag a room to a floor,
        equipment to a room
      </p>
    </template>
    <RecordGrid v-if="scope && section" :scope="scope" :title="label" @remove="(ids) => (removing = ids)" />
    <AddBox v-if="adding" :scope="scope" :section="section ?? null" @close="added" />
    <ConfirmRemoval v-if="removing" :ids="removing" @close="removing = null" />
    <ModalBox v-if="moving" label="Move to" @close="moving = null">
      <h2>Move to</h2>
      <RecordPicker
        :nouns="movingType === 'place' ? 'floor' : 'room'"
        id="move-to"
        autofocus
        aria-label="Words of where to"
        @choose="(hit) => hit && move(moving!, hit.id)"
      />
      <p class="acts"><NButton @click="moving = null">Leave it</NButton></p>
    </ModalBox>
  </PageShell>
</template>

<style scoped>
.keys {
  font-size: 12.5px;
  margin: -6px 0 0;
}
</style>
