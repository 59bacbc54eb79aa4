<script setup lang="ts">
import { ref } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import type { Block } from '../shared/api/records'
import { useDo } from '../shared/useDo'
import TuningChart from './TuningChart.vue'
import type { SequenceWork } from './useSequence'

/** Tries a loop on its plant, on the bench: what was found, why, settings by the rules, and how the loop answers under each. */
const props = defineProps<{ work: SequenceWork; block: Block }>()
const emit = defineEmits<{ close: [] }>()
const attempt = useDo()
const way = ref<Schemas['TuningWay']>('step')
const ways = [
  { value: 'step' as const, label: 'By a step' },
  { value: 'relay' as const, label: 'By a relay' },
]
const by = ref<number | null>(10)
const before = ref('start Wednesday 10:00')
const tuned = ref<Schemas['Tuned'] | null>(null)
const trying = ref(false)
async function tryIt() {
  trying.value = true
  tuned.value = null
  const path = { id: props.work.s.value!.id, block: props.block.id }
  await attempt(
    async () => void (tuned.value = await post('/sequences/{id}/tuning/{block}', { path, body: { way: way.value, by: by.value ?? 0, before: before.value } })),
  )
  trying.value = false
}
async function take(p: Schemas['LoopProposal']) {
  const { gain, ti, td } = p.settings
  if (await props.work.setBlock(props.block.id, { numbers: { ...props.block.numbers, gain, ti, td } }, `Tuned ‘${props.work.say(props.block)}’: ${p.for}`))
    emit('close')
}
const say = (s: Schemas['LoopSettings']) => `gain ${s.gain} % per unit, ti ${s.ti} s${s.td ? `, td ${s.td} s` : ''}`
</script>

<template>
  <ModalBox wide :label="`Tune ‘${work.say(block)}’`" @close="emit('close')">
    <h2>Tune ‘{{ work.say(block) }}’</h2>
    <p class="dim">
      The sequence runs on the bench with its equipment and rooms until it has settled; then its output is moved in place of the loop. What is installed notices
      nothing.
    </p>
    <form class="how" @submit.prevent="tryIt">
      <ChooseOne v-model="way" :options="ways" label="How it is tried" />
      <span class="dim">{{ way === 'relay' ? 'up and down by' : 'by' }}</span>
      <NumberBox v-model="by" unit="%" size="small" :width="84" required aria-label="By how many % the output is moved" />
      <span class="dim before">What is done before, a step a line as in tests: the season, what must run.</span>
      <TextBox v-model="before" type="textarea" mono :rows="2" spellcheck="false" aria-label="What is done before, as steps of a test" class="before" />
      <NButton id="try-loop" type="primary" size="small" attr-type="submit" :loading="trying">Try it</NButton>
    </form>
    <template v-if="tuned">
      <ul class="found">
        <li v-for="f in tuned.found" :key="f">{{ f }}</li>
      </ul>
      <h3>The trial</h3>
      <TuningChart :curves="tuned.trial" :seconds="tuned.trialSeconds" label="The trial" />
      <h3>How it answers a new setpoint</h3>
      <TuningChart :curves="tuned.responses" :seconds="tuned.responseSeconds" label="The answers to a new setpoint" />
      <p class="dim">It has {{ say(tuned.now) }}.</p>
      <div v-for="p in tuned.proposals" :key="p.for" class="take">
        <span
          ><b>{{ p.for }}</b> <span class="mono">{{ say(p.settings) }}</span></span
        >
        <NButton size="small" :aria-label="`Take the settings ${p.for}`" @click="take(p)">Take these</NButton>
      </div>
    </template>
    <p class="acts"><NButton @click="emit('close')">Close</NButton></p>
  </ModalBox>
</template>

<style scoped>
.how {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
.before {
  flex: 1 1 100%;
}
.found {
  margin: 0;
  padding-left: 18px;
}
.take {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  align-items: center;
}
</style>
