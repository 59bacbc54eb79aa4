<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import type { Schemas } from '../shared/api/http'
import { kindOf } from '../shared/api/kinds'
import { change, newId, put } from '../shared/api/records'
import { useStore } from '../shared/store'
import TextBox from '../shared/ui/TextBox.vue'
import { useDo } from '../shared/useDo'

/** Adds a place or equipment; what and where follow from what is selected. */
const props = defineProps<{ scope: string | null; section: Schemas['Section'] | null }>()
const emit = defineEmits<{ close: [id?: string] }>()
const store = useStore()
const attempt = useDo()
const kinds = kindOf('equipment').columns.find((c) => c.key === 'kind')?.choices ?? []
const floors = computed(() => (props.section?.floors ?? []).map((f) => ({ value: f.floor.id, label: f.floor.name, order: f.floor.order ?? 0 })))
const rooms = computed(() =>
  (props.section?.floors ?? []).flatMap((f) =>
    f.rooms.map((r) => ({ value: r.room.id, label: `${f.floor.name} › ${r.room.name}`, chips: r.equipment.map((e) => e.equipment.id) })),
  ),
)
const hostRoom = computed(() => rooms.value.find((r) => r.value === props.scope || r.chips.includes(props.scope ?? ''))?.value)
const hostFloor = computed(() => floors.value.find((f) => f.value === props.scope)?.value)
const whats = computed(() => [
  { value: 'building', label: 'Building' },
  { value: 'floor', label: 'Floor', disabled: !props.section },
  { value: 'room', label: 'Room', disabled: !floors.value.length },
  { value: 'equipment', label: 'Equipment', disabled: !rooms.value.length },
])
const what = ref(!props.section ? 'building' : hostRoom.value ? 'equipment' : hostFloor.value ? 'room' : 'floor')
const where = ref('')
const name = ref('')
const area = ref<number | null>(null)
const order = ref<number | null>(0)
const kind = ref(kinds[0] ?? '')
const box = ref<InstanceType<typeof TextBox>>()
watch(
  what,
  (w) => {
    where.value = (w === 'equipment' ? (hostRoom.value ?? rooms.value[0]?.value) : w === 'room' ? (hostFloor.value ?? floors.value[0]?.value) : '') ?? ''
    if (w === 'floor') order.value = floors.value.length ? Math.max(...floors.value.map((f) => f.order)) + 1 : 0
  },
  { immediate: true },
)
onMounted(() => nextTick(() => box.value?.focus()))
const records = {
  building: (id: string) => put('place', { id, name: name.value.trim(), kind: 'building', in: store.project?.siteId }, 0),
  floor: (id: string) => put('place', { id, name: name.value.trim(), kind: 'floor', in: props.section!.building.id, order: order.value ?? 0 }, 0),
  room: (id: string) => put('place', { id, name: name.value.trim(), kind: 'room', in: where.value, areaSquareMetres: area.value ?? undefined }, 0),
  equipment: (id: string) => put('equipment', { id, name: name.value.trim(), kind: kind.value, placeId: where.value }, 0),
}
async function add(again: boolean) {
  const id = newId(what.value)
  if (!(await attempt(() => change([records[what.value as keyof typeof records](id)])))) return
  if (!again) return emit('close', id)
  name.value = ''
  box.value?.focus()
}
</script>

<template>
  <ModalBox label="Add" @close="emit('close')">
    <form @submit.prevent="add(false)" @keydown.ctrl.enter.prevent="add(true)">
      <h2>Add</h2>
      <label class="row"><span>What</span><PickOne id="add-what" v-model="what" :options="whats" aria-label="What" /></label>
      <label v-if="what === 'room'" class="row"><span>On floor</span><PickOne v-model="where" :options="floors" aria-label="On floor" /></label>
      <template v-if="what === 'equipment'">
        <label class="row"><span>In room</span><PickOne v-model="where" :options="rooms" aria-label="In room" /></label>
        <label class="row"><span>Kind</span><PickOne id="add-kind" v-model="kind" :options="kinds" aria-label="Kind" /></label>
      </template>
      <label class="row"><span>Name</span><TextBox id="add-name" ref="box" v-model="name" required maxlength="80" /></label>
      <label v-if="what === 'floor'" class="row"
        ><span>Level</span><span><NumberBox v-model="order" :width="80" /> <span class="dim">0 is the ground</span></span></label
      >
      <label v-if="what === 'room'" class="row"><span>Area</span><NumberBox id="add-area" v-model="area" unit="m²" /></label>
      <p class="acts">
        <NButton id="add-do" type="primary" attr-type="submit">Add {{ what }}</NButton>
        <NButton @click="add(true)">Add, and another <kbd>Ctrl ↵</kbd></NButton>
        <NButton @click="emit('close')">Close</NButton>
      </p>
    </form>
  </ModalBox>
</template>

<style scoped>
.acts {
  margin-top: 10px;
}
</style>
