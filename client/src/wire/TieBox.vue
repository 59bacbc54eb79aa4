<script setup lang="ts">
import { computed } from 'vue'
import { get, post, type Schemas } from '../shared/api/http'
import { useLoaded, useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

/** What a terminal measures or drives in the building: as proposed, or as somebody chose. */
const props = defineProps<{ pointId: string }>()
const store = useStore()
const attempt = useDo()
const { value: tie } = useLoaded<Schemas['TieView']>(
  () => get(`/ties/${props.pointId}`),
  () => props.pointId,
  ['plantTie', 'point', 'place', 'equipment', 'taggingRule'],
)
const now = computed(() => (tie.value?.isChosen ? tie.value.choices.findIndex((c) => c.text === tie.value!.now) : -1))
function choose(e: Event) {
  const at = Number((e.target as HTMLSelectElement).value)
  const choice = at < 0 ? { thingId: null, quantity: null } : tie.value!.choices[at]!
  void attempt(
    () => post(`/ties/${props.pointId}`, { thingId: choice.thingId, quantity: choice.quantity }),
    'Review and send the controller to have it rewired',
  )
}
</script>

<template>
  <label v-if="tie" class="row"
    ><span>Tied to</span
    ><select class="field" data-tie :value="now" :disabled="!store.may('engineer')" @change="choose">
      <option :value="-1">{{ tie.proposed ? `${tie.proposed} (proposed)` : 'nothing there (proposed)' }}</option>
      <option v-for="(c, i) in tie.choices" :key="c.text" :value="i">{{ c.text }}</option>
    </select></label
  >
</template>

<style scoped>
label.row {
  grid-template-columns: 1fr;
  gap: 2px;
}
</style>
