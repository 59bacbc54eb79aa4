<script setup lang="ts">
import { ref } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import { useDo } from '../shared/useDo'

/** What carries to a device of the virtual site: how fast, how well; or nothing at all. */
const props = defineProps<{ host: string; link: Schemas['LinkQuality'] }>()
const emit = defineEmits<{ done: [] }>()
const attempt = useDo()
const megabits = ref<number | null>(props.link.kilobitsPerSecond / 1000)
const loss = ref<number | null>(props.link.lossPercent >= 100 ? 0 : props.link.lossPercent)
async function set(lossPercent: number) {
  const body = { kilobitsPerSecond: (megabits.value ?? 1) * 1000, lossPercent, roundTripMilliseconds: props.link.roundTripMilliseconds }
  if (await attempt(() => post('/contacts/{id}/link', { path: { id: props.host }, body }), lossPercent >= 100 ? 'Cut' : 'Done; it is in the trail'))
    emit('done')
}
</script>

<template>
  <div class="way">
    <h3>Its connection on the virtual site</h3>
    <p v-if="link.lossPercent >= 100" class="bar crimson">It is cut: nothing reaches the controller.</p>
    <label class="row"><span>Carries</span><NumberBox v-model="megabits" unit="Mbit/s" :min="0.001" /></label>
    <label class="row"><span>Frames repeated</span><NumberBox v-model="loss" unit="%" :min="0" :max="99" /></label>
    <p class="acts">
      <NButton size="small" @click="set(loss ?? 0)">{{ link.lossPercent >= 100 ? 'Mend it' : 'Make it so' }}</NButton>
      <NButton v-if="link.lossPercent < 100" size="small" @click="set(100)">Cut it</NButton>
    </p>
  </div>
</template>

<style scoped>
.way {
  border-top: 1px solid var(--rule);
  margin-top: 10px;
  padding-top: 6px;
}
</style>
