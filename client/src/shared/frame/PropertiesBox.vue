<script setup lang="ts">
import { computed } from 'vue'
import { change, put, type Equipment, type Place, type Point } from '../api/records'
import { get, type Schemas } from '../api/http'
import { useLoaded } from '../store'
import { useDo } from '../useDo'

/** The fields of a place, of equipment or of a point that no other page edits; each is saved as soon as it is left. */
const props = defineProps<{ record: Place | Equipment | Point; type: 'place' | 'equipment' | 'point'; revision: number }>()
const attempt = useDo()
const { value: kinds } = useLoaded<string[]>(() => get('/equipment-kinds'))
const place = computed(() => (props.type === 'place' ? (props.record as Place) : null))
const equipment = computed(() => (props.type === 'equipment' ? (props.record as Equipment) : null))
const point = computed(() => (props.type === 'point' ? (props.record as Point) : null))
const { value: beside } = useLoaded<Schemas['UsedBy'][]>(
  async () =>
    equipment.value
      ? (await get<Schemas['Dossier']>(`/records/${equipment.value.placeId}`)).usedBy.filter((u) => u.noun === 'equipment' && u.id !== props.record.id)
      : [],
  () => props.record.id,
)
const save = (patch: object) => attempt(() => change([put(props.type, { ...props.record, ...patch }, props.revision)]))
const text = (e: Event) => (e.target as HTMLInputElement).value.trim() || null
const number = (e: Event) => (text(e) === null ? null : Number(text(e)))
</script>

<template>
  <div class="properties">
    <template v-if="place">
      <label class="row"
        ><span>Short name</span><input class="field" maxlength="16" :value="place.shortName ?? ''" @change="save({ shortName: text($event) })"
      /></label>
      <label v-if="place.kind !== 'site'" class="row"
        ><span>{{ place.kind === 'floor' ? 'Level' : 'Order' }}</span
        ><input class="field mono" type="number" :value="place.order" @change="save({ order: number($event) ?? 0 })"
      /></label>
      <label v-if="place.kind === 'room'" class="row"
        ><span>Area</span
        ><span
          ><input
            class="field mono"
            type="number"
            min="0.1"
            step="any"
            style="width: 100px"
            :value="place.areaSquareMetres ?? ''"
            @change="save({ areaSquareMetres: number($event) })"
          />
          m²</span
        ></label
      >
      <label v-if="place.kind === 'site'" class="row"
        ><span>Time zone</span><input class="field" :value="place.timeZone ?? ''" @change="save({ timeZone: text($event) })"
      /></label>
    </template>
    <template v-else-if="equipment">
      <label class="row"
        ><span>Kind</span
        ><select class="field" :value="equipment.kind" @change="save({ kind: text($event) })">
          <option v-for="k in kinds ?? []" :key="k">{{ k }}</option>
        </select></label
      >
      <label class="row"
        ><span>Part of</span
        ><select class="field" :value="equipment.partOf ?? ''" @change="save({ partOf: text($event) })">
          <option value="">nothing larger</option>
          <option v-for="b in beside ?? []" :key="b.id" :value="b.id">{{ b.name }}</option>
        </select></label
      >
    </template>
    <label v-else-if="point" class="row"
      ><span>Description</span
      ><input class="field" :value="point.description ?? ''" placeholder="what a technician should know" @change="save({ description: text($event) })"
    /></label>
  </div>
</template>

<style scoped>
.properties label.row {
  grid-template-columns: 84px minmax(0, 1fr);
}
</style>
