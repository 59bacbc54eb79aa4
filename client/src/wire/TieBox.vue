<script setup lang="ts">
import { computed } from 'vue'
import { useShown } from '../shared/api/cache'
import { post } from '../shared/api/http'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

/** What a terminal measures or drives in the building: as proposed, or as somebody chose. */
const props = defineProps<{ pointId: string }>()
const store = useStore()
const attempt = useDo()
const { value: tie } = useShown('/ties/{pointId}', () => ({ path: { pointId: props.pointId } }), ['plantTie', 'point', 'place', 'equipment', 'taggingRule'])
const PROPOSED = -1
const now = computed(() => (tie.value?.isChosen ? tie.value.choices.findIndex((c) => c.text === tie.value!.now) : PROPOSED))
const options = computed(() => [
  { value: PROPOSED, label: tie.value?.proposed ? `${tie.value.proposed} (proposed)` : 'nothing there (proposed)' },
  ...(tie.value?.choices ?? []).map((c, value) => ({ value, label: c.text })),
])
function choose(at: number) {
  const { thingId, quantity } = at === PROPOSED ? { thingId: null, quantity: null } : tie.value!.choices[at]!
  void attempt(
    () => post('/ties/{pointId}', { path: { pointId: props.pointId }, body: { thingId, quantity } }),
    'Review and send the controller to have it rewired',
  )
}
</script>

<template>
  <label v-if="tie" class="row"
    ><span>Tied to</span
    ><PickOne data-tie :model-value="now" :options="options" :disabled="!store.may('engineer')" aria-label="Tied to" @update:model-value="choose"
  /></label>
</template>

<style scoped>
label.row {
  grid-template-columns: 1fr;
  gap: 2px;
}
</style>
