<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { post, type Schemas } from '../api/http'
import { useStore } from '../store'
import { useDo } from '../useDo'

/** What would have to be otherwise for an output to be something: the states that it is not in, or above or below a number. It is tried beside what runs. */
type Point = Schemas['Point']
const props = defineProps<{ point: Point }>()
const store = useStore()
const attempt = useDo()
const answer = ref<Schemas['Because'] | null>(null)
const waits = ref(false)
const now = computed(() => store.live.get(`p:${props.point.id}`)?.v ?? null)
const first = computed(() => (props.point.kind === 'binary' ? 0 : 1))
const others = computed(() => (props.point.stateTexts ?? []).map((label, i) => ({ value: i + first.value, label })).filter((o) => o.value !== now.value))
const state = ref<number | null>(null)
const side = ref<'above' | 'below'>('above')
const number = ref<number | null>(null)
const isAnalog = computed(() => props.point.kind === 'analog')
const wanted = computed(() => (isAnalog.value ? number.value : (others.value.find((o) => o.value === state.value) ?? others.value[0])?.value) ?? null)
const states = computed(() => others.value.find((o) => o.value === wanted.value)?.label ?? '')
async function ask() {
  if (wanted.value === null) return
  waits.value = true
  const body = { relation: isAnalog.value ? side.value : ('is' as const), value: wanted.value, upper: 0 }
  await attempt(async () => void (answer.value = await post('/why-not/{id}', { path: { id: props.point.id }, body })))
  waits.value = false
}
watch(now, () => !isAnalog.value && (answer.value = null))
</script>

<template>
  <form class="ask" @submit.prevent="ask">
    <template v-if="isAnalog">
      <PickOne v-model="side" size="small" :options="['above', 'below']" aria-label="Above or below" class="side" />
      <NumberBox v-model="number" size="small" :unit="point.unit" :width="96" aria-label="Value that it is not" />
    </template>
    <PickOne
      v-else-if="others.length > 1"
      v-model="state"
      size="small"
      :options="others"
      :placeholder="states"
      aria-label="State that it is not in"
      class="side"
    />
    <NButton attr-type="submit" size="small" :loading="waits" data-ask="why-not">{{ isAnalog ? 'Why not?' : `Why not ${states}?` }}</NButton>
  </form>
  <div v-if="answer" class="answer" aria-live="polite">
    <BecauseTree :because="answer" />
    <p class="dim tiny">Tried from where it stood, for 15 min each; nothing on the site was touched.</p>
  </div>
</template>

<style scoped>
.ask {
  display: flex;
  gap: 6px;
  margin-top: 8px;
}
.side {
  width: 96px;
}
.answer {
  margin-top: 6px;
}
</style>
