<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

/** One device in the place of another, in four steps: what comes, what goes with the old one, a look at all that changes, and proving it. */
const props = defineProps<{ point: string }>()
const store = useStore()
const attempt = useDo()
const { value: choice, problem } = useShown('/replacement/{point}', () => ({ path: { point: props.point } }), ['point', 'fitting', 'module', 'controller'])
const { value: signals } = useShown('/signals', () => ({}), 'fixed')
const step = ref('comes')
const terminal = ref('')
const signalKey = ref('')
const curveId = ref<string | null>(null)
const low = ref<number | null>(null)
const high = ref<number | null>(null)
const grade = ref<string>('')
const goes = ref<string[]>([])
const choices = ref<readonly Schemas['RemovalChoice'][]>([])
const done = ref('')
watch(
  choice,
  (c) => {
    if (!c || terminal.value) return
    const f = c.fitting
    ;[terminal.value, signalKey.value, curveId.value, low.value, high.value, grade.value] = [
      f.terminal,
      f.signal,
      f.curveId ?? null,
      f.low ?? 0,
      f.high ?? 100,
      f.toleranceClass ?? '',
    ]
  },
  { immediate: true },
)
const carried = computed(() => choice.value?.terminals.find((t) => t.terminal === terminal.value)?.signals ?? [])
const signal = computed(() => signals.value?.find((s) => s.key === signalKey.value))
const body = computed(() => ({
  pointId: props.point,
  comes: {
    signal: signalKey.value,
    terminal: terminal.value,
    curveId: signal.value?.asksCurve || signal.value?.mayCurve ? curveId.value : null,
    low: low.value,
    high: high.value,
    toleranceClass: grade.value || null,
  },
  goes: goes.value,
  choices: [...choices.value],
}))
const preview = ref<Schemas['ReplacementPreview'] | null>(null)
const look = () => attempt(async () => (preview.value = await post('/replacement', { body: body.value as never })))
watch([body, step], () => step.value !== 'comes' && step.value !== 'prove' && void look())
const steps = computed(() => [
  { key: 'comes', title: 'What comes', says: signal.value?.name, ready: !done.value },
  { key: 'goes', title: 'What goes with the old one', says: goes.value.length ? `${goes.value.length} points` : 'nothing', ready: !done.value },
  { key: 'look', title: 'What changes', ready: !done.value },
  { key: 'prove', title: 'Send and check', ready: !!done.value },
])
async function apply() {
  const kept = await attempt(
    async () => (done.value = (await post('/replacement/apply', { body: body.value as never })).label),
    'Replaced. Ctrl Z brings it back.',
  )
  if (kept) step.value = 'prove'
}
const turn = (id: string, on: boolean) => (goes.value = on ? [...goes.value, id] : goes.value.filter((g) => g !== id))
</script>

<template>
  <PageShell :title="choice ? `Replace the device of ${choice.point.name}` : 'Replace a device'" :problem="problem">
    <template v-if="choice" #facts>
      <FactTag>{{ choice.path }}</FactTag><FactTag mono>{{ choice.controller.name }} {{ choice.fitting.terminal }}</FactTag>
    </template>
    <StepWizard v-if="choice" v-model:step="step" :steps="steps">
      <template #comes>
        <div class="sheet narrow">
          <label class="row"
            ><span>Terminal</span><PickOne v-model="terminal" :options="choice.terminals.map((t) => t.terminal)" aria-label="Terminal of what comes"
          /></label>
          <label class="row"
            ><span>Signal</span
            ><PickOne
              v-model="signalKey"
              :options="(signals ?? []).filter((s) => carried.includes(s.key)).map((s) => ({ value: s.key, label: s.name }))"
              aria-label="Signal of what comes"
          /></label>
          <label v-if="signal?.asksCurve || signal?.mayCurve" class="row"
            ><span>Curve</span
            ><RecordPicker nouns="sensor curve" placeholder="words of a curve" aria-label="Curve of what comes" @choose="(hit) => (curveId = hit?.id ?? null)"
          /></label>
          <template v-if="signal?.asksRange && !curveId">
            <label class="row"><span>At the low end</span><NumberBox v-model="low" :unit="choice.point.unit" aria-label="At the low end" /></label>
            <label class="row"><span>At the high end</span><NumberBox v-model="high" :unit="choice.point.unit" aria-label="At the high end" /></label>
          </template>
          <label v-if="signal?.classes.length" class="row"
            ><span>Class</span
            ><PickOne
              v-model="grade"
              :options="[{ value: '', label: 'not known' }, ...signal.classes.map((c) => ({ value: c, label: c }))]"
              aria-label="Class of what comes"
          /></label>
          <p class="dim">A correction was found for the old sensor; the new one begins without.</p>
          <p class="acts"><NButton id="replace-next" type="primary" @click="step = 'goes'">Go on</NButton></p>
        </div>
      </template>
      <template #goes>
        <div class="sheet">
          <p v-if="!choice.beside.length" class="dim">Nothing else of the same place hangs on {{ choice.controller.name }}.</p>
          <template v-else>
            <p>Which of these did only the old device have, such as its adjuster? They go, and you say what becomes of those that use them.</p>
            <p v-for="b in choice.beside" :key="b.point.id">
              <NCheckbox :checked="goes.includes(b.point.id)" :data-goes="b.point.id" @update:checked="(on: boolean) => turn(b.point.id, on)"
                ><b>{{ b.point.name }}</b> <span class="dim">{{ b.point.role }}, {{ b.path }}</span></NCheckbox
              >
            </p>
          </template>
          <div v-if="preview?.removal" class="uses">
            <h3>What uses them</h3>
            <RemovalChoices v-model:choices="choices" :preview="preview.removal" />
          </div>
          <p class="acts"><NButton id="replace-look" type="primary" @click="step = 'look'">Go on</NButton></p>
        </div>
      </template>
      <template #look>
        <div v-if="preview" class="sheet">
          <h2>Wiring of {{ choice.point.name }}</h2>
          <p v-for="w in preview.wiring" :key="w" class="mono">{{ w }}</p>
          <p v-if="!preview.wiring.length" class="dim">stays as it is</p>
          <template v-if="preview.removal">
            <h2>{{ preview.removal.sentence }}</h2>
            <p v-for="l in preview.removal.gone" :key="l.id">
              − {{ l.noun }} <b>{{ l.name }}</b> <span class="dim">{{ l.path }}</span>
            </p>
            <template v-for="l in preview.removal.changed" :key="l.id + l.gone">
              <p>
                ~ {{ l.noun }} <b>{{ l.name }}</b>
              </p>
              <p v-for="c in l.changes" :key="c" class="mono tiny">{{ c }}</p>
            </template>
          </template>
          <p v-if="preview.refused" class="bar crimson">✕ {{ preview.refused }}</p>
          <p class="acts"><NButton id="replace-do" type="primary" :disabled="!!preview.refused" @click="apply">Replace it</NButton></p>
        </div>
      </template>
      <template #prove>
        <div class="sheet">
          <p>✓ {{ done }}. Nothing refers to what has gone.</p>
          <ol>
            <li>
              <RouterLink :to="`/commission/${choice.controller.id}`">Review and send</RouterLink> {{ choice.controller.name }}; that rewires the terminal too.
            </li>
            <li v-if="store.may('technician')">
              <RouterLink :to="`/commission/check/${choice.controller.id}`">Check the point</RouterLink> beside a reference instrument: an earlier check counted
              for the old wiring only.
            </li>
          </ol>
        </div>
      </template>
    </StepWizard>
  </PageShell>
</template>

<style scoped>
.narrow {
  max-width: 560px;
}
.uses {
  display: grid;
  gap: 6px;
  margin: 8px 0;
}
</style>
