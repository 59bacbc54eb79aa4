<script setup lang="ts">
import { ref } from 'vue'
import type { Point } from '../api/records'
import { post } from '../api/http'
import { useStore } from '../store'
import { useDo } from '../useDo'

/** Holding an output, or an input of the virtual site, by hand: value, reason and end. */
const props = defineProps<{ point: Point }>()
const emit = defineEmits<{ done: [] }>()
const attempt = useDo()
const store = useStore()
const isInput = props.point.role === 'sensor'
const now = store.live.get(`p:${props.point.id}`)?.v
const value = ref(String(now ?? props.point.fallback ?? 0))
const why = ref('')
const minutes = ref('120')
const ends = [
  ['30', 'for 30 minutes'],
  ['120', 'for 2 hours'],
  ['480', 'for 8 hours'],
  ['1440', 'for a day'],
  ['', 'until released'],
]
async function hold() {
  const done = await attempt(
    () =>
      post(isInput ? '/held/inputs' : '/held', {
        pointId: props.point.id,
        value: Number(value.value),
        why: why.value,
        minutes: minutes.value ? Number(minutes.value) : null,
      }),
    `◐ ${props.point.name} is held by hand`,
  )
  if (done) emit('done')
}
</script>

<template>
  <form class="hold" @submit.prevent="hold" @keydown.esc.stop="emit('done')">
    <label class="row"
      ><span>{{ isInput ? 'Input reads' : 'Hold at' }}</span>
      <select v-if="point.stateTexts?.length" id="hold-value" v-model="value" class="field">
        <option v-for="(text, i) in point.stateTexts" :key="i" :value="String(point.kind === 'binary' ? i : i + 1)">{{ text }}</option>
      </select>
      <span v-else><input id="hold-value" v-model="value" class="field mono" type="number" step="any" style="width: 90px" required /> {{ point.unit }}</span>
    </label>
    <label class="row"
      ><span>Until</span>
      <select v-model="minutes" class="field">
        <option v-for="[v, text] in ends" :key="v" :value="v">{{ text }}</option>
      </select></label
    >
    <label class="row"
      ><span>Why</span><input id="hold-why" v-model="why" class="field" required maxlength="200" placeholder="who finds it held will want to know"
    /></label>
    <p style="display: flex; gap: 6px">
      <button class="btn main small">Hold by hand</button><button type="button" class="btn small" @click="emit('done')">Cancel</button>
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
