<script setup lang="ts">
import { ref, watch } from 'vue'
import { post, type Schemas } from '../api/http'
import { useDo } from '../useDo'
import { useJob } from '../useJob'

/** Copies of a record with all in it: how many, how they are called, and what would be made, before it is. */
const props = defineProps<{ id: string; name: string }>()
const emit = defineEmits<{ done: [] }>()
const attempt = useDo()
/** The number that the first copy takes: what is copied is the first of them. */
const FIRST = 2
const times = ref<number | null>(1)
const pattern = ref(`${props.name} {n}`)
const copies = ref<Schemas['CopyView'] | null>(null)
watch([times, pattern], () => (copies.value = null))
const body = () => ({ recordId: props.id, times: times.value ?? 0, namePattern: pattern.value, first: FIRST })
const look = () => attempt(async () => (copies.value = await post('/copies/preview', { body: body() })))
/** Many copies are made as a job: with progress, and a stop that leaves everything as it was. */
const LARGE = 20
const copied = (done: boolean) => done && emit('done')
const { job, start } = useJob(copied)
async function copy() {
  if ((times.value ?? 0) > LARGE) return void (await start(() => post('/copies/start', { body: body() })))
  copied(await attempt(() => post('/copies', { body: body() }), `Copied ${times.value} ×`))
}
</script>

<template>
  <form class="take" @submit.prevent="copies && !copies.refusals.length ? copy() : look()">
    <NumberBox v-model="times" :width="62" required aria-label="How many copies" /> <span>×</span>
    <TextBox v-model="pattern" style="width: 190px" aria-label="Names of the copies" title="{name}, {n}, {nn}" required />
    <template v-if="copies">
      <p v-for="r in copies.refusals" :key="r" class="bar high">✕ {{ r }}</p>
      <p v-if="!copies.refusals.length">
        <b>{{ copies.names.slice(0, 4).join(', ') }}{{ copies.names.length > 4 ? ' …' : '' }}</b
        >: {{ copies.records.join(', ') }}
      </p>
      <p v-for="(n, i) in copies.notes.slice(0, 30)" :key="i" class="bar" :class="{ medium: n.startsWith('open') }">{{ n }}</p>
    </template>
    <JobProgress v-if="job" :job="job" />
    <NButton v-if="job?.state !== 'running'" type="primary" size="small" attr-type="submit">{{
      copies && !copies.refusals.length ? 'Copy' : 'See what would be made'
    }}</NButton>
  </form>
</template>

<style scoped>
.take {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
  align-items: center;
  margin-top: 6px;
}
</style>
