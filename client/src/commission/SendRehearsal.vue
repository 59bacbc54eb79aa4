<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { get, post, type Schemas } from '../shared/api/http'
import { many, siteTime } from '../shared/numbers'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import { useJob } from '../shared/useJob'

/** What a send would bring, rehearsed beside the program that runs: which outputs and values move, and what stays. */
const props = defineProps<{ controller: string }>()
const store = useStore()
const attempt = useDo()
const rehearsal = ref<Schemas['RehearsalView'] | null>(null)
const rehearse = () => attempt(async () => (rehearsal.value = await get('/commission/{id}/rehearsal', { path: { id: props.controller } })))
const zone = computed(() => store.project?.timeZone ?? 'UTC')
/** Days are kept for as long as the jobs that lived them are known. */
const hasDay = computed(() => [...store.jobs.values()].some((j) => j.kind === 'day' && j.state === 'done'))
const { value: day, reload } = useShown('/commission/{id}/day', () => (hasDay.value ? { path: { id: props.controller } } : null), 'all')
const { job, start } = useJob(() => void reload())
const live = () => start(() => post('/commission/{id}/day', { path: { id: props.controller } }))
</script>

<template>
  <div class="sheet" data-rehearsal>
    <h2>What will move</h2>
    <p v-if="!rehearsal" class="dim">
      The new program is run once beside the old one, with what that remembers and what stands at its terminals. Nothing there changes.
    </p>
    <template v-else>
      <p v-if="!rehearsal.moves.length">✓ No output and no value becomes another at the change-over.</p>
      <NTable v-else size="small" :bordered="false" class="close">
        <tbody>
          <tr v-for="m in rehearsal.moves" :key="m.id">
            <td>
              <NButton text type="info" @click="store.selected = m.id">{{ m.name }}</NButton>
            </td>
            <td class="mono">{{ m.before }} → {{ m.after }}</td>
          </tr>
        </tbody>
      </NTable>
      <template v-if="rehearsal.lost.length">
        <h3>What begins anew</h3>
        <p v-for="l in rehearsal.lost.slice(0, 20)" :key="`${l.sequenceId} ${l.block}`" data-lost>
          ▲ <b>{{ l.block }}</b> of ‘{{ l.sequence }}’ loses its times and counts: {{ l.why }}.
        </p>
        <p v-if="rehearsal.lost.length > 20" class="dim">and {{ rehearsal.lost.length - 20 }} more</p>
      </template>
      <p v-else class="dim">✓ All blocks go on with their times and counts.</p>
      <p class="dim">
        {{ rehearsal.holdsKept }} of {{ many(rehearsal.holds, 'hold') }} by hand and {{ rehearsal.logsKept }} of {{ many(rehearsal.logs, 'log') }} go on.
      </p>
    </template>
    <p class="acts">
      <NButton v-if="store.may('technician')" id="rehearse" size="small" @click="rehearse">{{ rehearsal ? 'Rehearse again' : 'Rehearse the send' }}</NButton>
      <NButton v-if="store.may('technician')" id="rehearse-day" size="small" :disabled="job?.state === 'running'" @click="live">Live a day of both</NButton>
    </p>
    <JobProgress v-if="job" :job="job" />
    <template v-if="day">
      <h3>A day of both</h3>
      <p :class="{ dim: !day.isCurrent }">
        <b>{{ day.sentence }}</b>
        <template v-if="!day.isCurrent"> The design or what runs is another since; live the day again.</template>
        <template v-else> From {{ siteTime(day.from, zone, true) }}, with the same weather and people.</template>
      </p>
      <NTable v-if="day.lines.length" size="small" :bordered="false" class="close">
        <tbody>
          <tr v-for="l in day.lines.slice(0, 40)" :key="l.id" :data-day="l.id">
            <td>
              <NButton text type="info" @click="store.selected = l.id">{{ l.name }}</NButton>
              <div class="dim tiny">{{ l.isCommand ? 'output' : 'value' }}, first at {{ siteTime(l.firstAt, zone) }}: {{ l.before }} → {{ l.after }}</div>
            </td>
            <td>{{ many(l.minutes, 'minute') }}, by up to {{ l.most }}</td>
            <td class="mono tiny">{{ l.meanBefore }} → {{ l.meanAfter }}</td>
          </tr>
        </tbody>
      </NTable>
      <p v-if="day.slight" class="dim">{{ many(day.slight, 'other point') }} moved by less than 0.05 of their unit.</p>
      <p v-if="day.lines.length > 40" class="dim">And {{ many(day.lines.length - 40, 'other point') }}.</p>
    </template>
  </div>
</template>

<style scoped>
h3 {
  margin: 10px 0 2px;
}
</style>
