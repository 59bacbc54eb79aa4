<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { change, newId, put } from '../shared/api/records'
import type { Schemas } from '../shared/api/http'
import { kindOf } from '../shared/api/kinds'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import ModalBox from '../shared/ModalBox.vue'

/** Adds a place or equipment; what and where follow from what is selected. */
const props = defineProps<{ scope: string | null; section: Schemas['Section'] | null }>()
const emit = defineEmits<{ close: [id?: string] }>()
const store = useStore()
const attempt = useDo()
/** The kinds of equipment there are. */
const kinds = kindOf('equipment').columns.find((c) => c.key === 'kind')?.choices
const floors = computed(() => props.section?.floors.map((f) => f.floor) ?? [])
const rooms = computed(
  () =>
    props.section?.floors.flatMap((f) =>
      f.rooms.map((r) => ({ id: r.room.id, name: `${f.floor.name} › ${r.room.name}`, chips: r.equipment.map((e) => e.equipment.id) })),
    ) ?? [],
)
const hostRoom = computed(() => rooms.value.find((r) => r.id === props.scope || r.chips.includes(props.scope ?? ''))?.id)
const what = ref(
  !props.section
    ? 'building'
    : hostRoom.value
      ? 'equipment'
      : floors.value.some((f) => f.id === props.scope)
        ? 'room'
        : floors.value.length
          ? 'floor'
          : 'floor',
)
const where = ref('')
const name = ref('')
const area = ref('')
const order = ref('0')
const kind = ref('fan-coil')
const box = ref<HTMLInputElement>()
watch(
  what,
  (w) => {
    where.value =
      w === 'equipment'
        ? (hostRoom.value ?? rooms.value[0]?.id ?? '')
        : w === 'room'
          ? (floors.value.find((f) => f.id === props.scope)?.id ?? floors.value[0]?.id ?? '')
          : ''
    if (w === 'floor') order.value = String(floors.value.length ? Math.max(...floors.value.map((f) => f.order ?? 0)) + 1 : 0)
  },
  { immediate: true },
)
onMounted(() => nextTick(() => box.value?.focus()))

async function add(again: boolean) {
  const id = newId(what.value)
  const n = name.value.trim()
  const record =
    what.value === 'building'
      ? put('place', { id, name: n, kind: 'building', in: store.project?.siteId }, 0)
      : what.value === 'floor'
        ? put('place', { id, name: n, kind: 'floor', in: props.section!.building.id, order: Number(order.value) }, 0)
        : what.value === 'room'
          ? put('place', { id, name: n, kind: 'room', in: where.value, areaSquareMetres: area.value ? Number(area.value) : undefined }, 0)
          : put('equipment', { id, name: n, kind: kind.value, placeId: where.value }, 0)
  if (!(await attempt(() => change([record])))) return
  if (!again) return emit('close', id)
  name.value = ''
  box.value?.focus()
}
</script>

<template>
  <ModalBox label="Add" @close="emit('close')">
    <form @submit.prevent="add(false)" @keydown.ctrl.enter.prevent="add(true)">
      <h2>Add</h2>
      <label class="row"
        ><span>What</span
        ><select id="add-what" v-model="what" class="field">
          <option value="building">Building</option>
          <option value="floor" :disabled="!section">Floor</option>
          <option value="room" :disabled="!floors.length">Room</option>
          <option value="equipment" :disabled="!rooms.length">Equipment</option>
        </select></label
      >
      <label v-if="what === 'room'" class="row"
        ><span>On floor</span
        ><select v-model="where" class="field">
          <option v-for="f in floors" :key="f.id" :value="f.id">{{ f.name }}</option>
        </select></label
      >
      <label v-if="what === 'equipment'" class="row"
        ><span>In room</span
        ><select v-model="where" class="field">
          <option v-for="r in rooms" :key="r.id" :value="r.id">{{ r.name }}</option>
        </select></label
      >
      <label v-if="what === 'equipment'" class="row"
        ><span>Kind</span
        ><select id="add-kind" v-model="kind" class="field">
          <option v-for="k in kinds ?? []" :key="k">{{ k }}</option>
        </select></label
      >
      <label class="row"><span>Name</span><input id="add-name" ref="box" v-model="name" class="field" required maxlength="80" /></label>
      <label v-if="what === 'floor'" class="row"
        ><span>Level</span
        ><span><input v-model="order" class="field mono" type="number" style="width: 80px" /> <span class="dim">0 is the ground</span></span></label
      >
      <label v-if="what === 'room'" class="row"
        ><span>Area</span
        ><span><input id="add-area" v-model="area" class="field mono" type="number" min="0.1" step="any" style="width: 100px" /> m²</span></label
      >
      <p class="acts">
        <button id="add-do" class="btn main">Add {{ what }}</button>
        <button type="button" class="btn" @click="add(true)">Add, and another <kbd>Ctrl ↵</kbd></button>
        <button type="button" class="btn" @click="emit('close')">Close</button>
      </p>
    </form>
  </ModalBox>
</template>

<style scoped>
.acts {
  display: flex;
  gap: 8px;
  margin-top: 10px;
}
</style>
