<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { get, post, type Schemas } from '../shared/api/http'
import { useDo } from '../shared/useDo'

/** How long a blind runs from end to end: pressed at the start and at the end, three times each way. */
const props = defineProps<{ device: string; channel: Schemas['TryChannel']; may: boolean }>()
const emit = defineEmits<{ close: [] }>()
const attempt = useDo()
const runs = ref<{ isDown: boolean; seconds: number }[]>([])
const measure = ref<Schemas['TravelMeasure'] | null>(null)
const moving = ref<{ isDown: boolean; at: number } | null>(null)
const next = computed(() => runs.value.length % 2 === 0)
const drive = (value: number | null) => post('/bus/try/{id}', { path: { id: props.device }, body: { channel: props.channel.key, value } })
/** Where it stands in the virtual building, whoever watches it there. */
const stands = ref(props.channel.inBuilding)
useIntervalFn(() => {
  if (moving.value)
    void get('/bus/try/{id}', { path: { id: props.device } })
      .then((v) => (stands.value = v.channels.find((c) => c.key === props.channel.key)?.inBuilding ?? null))
      .catch(() => undefined)
}, 700)
const start = () =>
  attempt(async () => {
    const isDown = next.value
    const told = await drive(isDown ? props.channel.high : props.channel.low)
    moving.value = { isDown, at: told.at }
  })
const end = () =>
  attempt(async () => {
    const run = moving.value!
    const told = await drive(0)
    moving.value = null
    runs.value = [...runs.value, { isDown: run.isDown, seconds: Math.round((told.at - run.at) / 10) / 100 }]
    measure.value = await send(false)
  })
const send = (apply: boolean) => post('/bus/devices/{id}/travel', { path: { id: props.device }, body: { channel: props.channel.key, runs: runs.value, apply } })
async function take() {
  if (await attempt(() => send(true), 'Set; write it to the device under Bus devices')) await leave()
}
async function leave() {
  await attempt(() => drive(null))
  emit('close')
}
</script>

<template>
  <section class="travel" aria-label="Travel time">
    <p v-if="!moving" class="dim">
      Begin with the blind {{ next ? 'up, at its end' : 'down, at its end' }}. Press when it starts, and again when it has arrived.
    </p>
    <p v-if="stands">
      In the virtual building it stands at <b class="mono">{{ stands }}</b>; 0 % is up.
    </p>
    <div class="keys">
      <NButton v-if="!moving" size="large" type="primary" @click="start">{{ next ? '▼ Start down' : '▲ Start up' }}</NButton>
      <NButton v-else size="large" type="primary" @click="end">■ Now it is {{ moving.isDown ? 'down' : 'up' }}</NButton>
      <NButton v-if="runs.length && !moving" size="large" @click="runs = runs.slice(0, -1)">Forget the last</NButton>
      <NButton size="large" quaternary @click="leave">Leave</NButton>
    </div>
    <p v-for="(r, i) in runs" :key="i">{{ r.isDown ? '▼ down' : '▲ up' }} {{ r.seconds.toFixed(1) }} s</p>
    <template v-if="measure && runs.length">
      <p>
        <b v-if="measure.down != null">{{ measure.down }} s down</b><b v-if="measure.up != null">, {{ measure.up }} s up</b>
        <template v-if="measure.ratio != null">, up takes {{ measure.ratio }} times as long</template>; runs differ by {{ measure.spread }} s.
        {{ measure.isTrusted ? '✓' : '○' }} {{ measure.says }}
      </p>
      <NButton v-if="may && measure.down != null && measure.up != null" type="primary" @click="take">Take these times</NButton>
    </template>
  </section>
</template>

<style scoped>
.travel {
  display: grid;
  gap: 6px;
}
.keys {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
</style>
