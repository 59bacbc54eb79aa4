<script setup lang="ts">
import { ref } from 'vue'
import { post } from '../api/http'
import type { Point } from '../api/records'
import { useStore } from '../store'
import { useDo } from '../useDo'

/** Holding an output, or an input of the virtual site, by hand: value, reason and end. */
const props = defineProps<{ point: Point }>()
const emit = defineEmits<{ done: [] }>()
const attempt = useDo()
const store = useStore()
const isInput = props.point.role === 'sensor'
const value = ref<number | null>(store.live.get(`p:${props.point.id}`)?.v ?? props.point.fallback ?? 0)
const why = ref('')
const minutes = ref(120)
const FOREVER = 0
const ends = [
  { value: 30, label: 'for 30 minutes' },
  { value: 120, label: 'for 2 hours' },
  { value: 480, label: 'for 8 hours' },
  { value: 1440, label: 'for a day' },
  { value: FOREVER, label: 'until released' },
]
const states = (props.point.stateTexts ?? []).map((label, i) => ({ label, value: props.point.kind === 'binary' ? i : i + 1 }))
async function hold() {
  const body = { pointId: props.point.id, value: value.value ?? NaN, why: why.value, minutes: minutes.value === FOREVER ? null : minutes.value }
  if (await attempt(() => (isInput ? post('/held/inputs', { body }) : post('/held', { body })), `◐ ${props.point.name} is held by hand`)) emit('done')
}
</script>

<template>
  <form class="hold" @submit.prevent="hold" @keydown.esc.stop="emit('done')">
    <label class="row"
      ><span>{{ isInput ? 'Input reads' : 'Hold at' }}</span>
      <PickOne v-if="states.length" id="hold-value" v-model="value" :options="states" aria-label="Value" />
      <NumberBox v-else id="hold-value" v-model="value" :unit="point.unit" required aria-label="Value" />
    </label>
    <label class="row"><span>Until</span><PickOne id="hold-until" v-model="minutes" :options="ends" aria-label="Until" /></label>
    <label class="row"
      ><span>Why</span><TextBox id="hold-why" v-model="why" required maxlength="200" placeholder="who finds it held will want to know"
    /></label>
    <p class="acts">
      <NButton type="primary" size="small" attr-type="submit">Hold by hand</NButton><NButton size="small" @click="emit('done')">Cancel</NButton>
    </p>
  </form>
</template>

<style scoped>
.hold {
  background: var(--sunk);
  border-radius: 8px;
  padding: 6px 10px 9px;
}
label.row {
  grid-template-columns: 70px 1fr;
}
</style>
