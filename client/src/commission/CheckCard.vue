<script setup lang="ts">
import { computed, onBeforeUnmount, ref } from 'vue'
import { api, post, type Schemas } from '../shared/api/http'
import { newId } from '../shared/api/records'
import { when } from '../shared/numbers'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

/** One point at its terminal: what is expected, what is there now, and how it was found. An output that was driven goes back by itself. */
type Entry = Schemas['CheckEntry']
const props = defineProps<{
  line: Schemas['CheckLine']
  reading?: Schemas['TerminalReading']
  send: (entry: Entry) => Promise<Schemas['KeptCheck'] | null>
}>()
const emit = defineEmits<{ kept: []; next: [] }>()
const store = useStore()
const attempt = useDo()
const reference = ref<number | null>(null)
const allowed = ref<number | null>(props.line.allowed ?? null)
const remark = ref('')
const correct = ref(false)
const driven = ref<number | null>(null)
const fresh = ref<Schemas['KeptCheck'] | null>(null)
const waits = ref(false)
const isOutput = computed(() => props.line.steps.length > 0)
const isAnalog = computed(() => props.line.kind === 'analog')
const last = computed(() => fresh.value ?? (props.line.isStale ? null : props.line.last) ?? null)
const steps = computed(() => [...new Set(props.line.steps)])
const say = (v: number) => (isAnalog.value ? `${v} ${props.line.unit ?? ''}` : (props.line.states[v] ?? String(v)))
const point = { pointId: props.line.pointId }
const now = () => store.live.get(`p:${props.line.pointId}`)?.v ?? null
function drive(value: number) {
  driven.value = value
  return attempt(() => post('/checks/exercise', { body: { ...point, value } }))
}
async function restore() {
  if (driven.value === null) return
  driven.value = null
  await post('/checks/restore', { body: { ...point, value: 0 } }).catch(() => {})
}
onBeforeUnmount(restore)
async function enter(passed: boolean | null, state: number | null = null) {
  const entry = {
    id: newId('check'),
    ...point,
    reference: isOutput.value ? null : (state ?? reference.value),
    allowed: allowed.value,
    passed,
    remark: remark.value,
    correct: correct.value,
    at: Date.now(),
    seen: now(),
  } as Entry
  const done = await attempt(async () => {
    fresh.value = await props.send(entry)
    waits.value = !fresh.value
  })
  if (!done) return
  await restore()
  emit('kept')
}
const photo = (file: File) =>
  attempt(async () => {
    await post('/checks/{id}/photo', { path: { id: last.value!.id }, body: file })
    if (fresh.value) fresh.value = { ...fresh.value, photos: fresh.value.photos + 1 }
    emit('kept')
  }, 'The photo is kept')
</script>

<template>
  <div class="sheet card" :data-card="line.terminal">
    <div class="top">
      <b class="mono big">{{ line.terminal }}</b>
      <span
        ><b>{{ line.point }}</b
        ><br /><span class="dim">{{ line.path }}</span></span
      >
    </div>
    <p class="facts dim">
      {{ line.device }} · cable <span class="mono">{{ line.cable }}</span> · {{ line.expects }}
    </p>
    <div class="values">
      <span>reads</span><b class="now"><LiveValue :id="`p:${line.pointId}`" /></b> <span>terminal</span
      ><span class="mono">{{ reading?.raw ?? '–' }} {{ reading?.unit }}</span>
      <template v-for="f in line.feedback" :key="f.pointId"
        ><span>{{ f.name }}</span
        ><b><LiveValue :id="`p:${f.pointId}`" /></b
      ></template>
    </div>
    <p v-if="reading?.trouble" class="bar crimson">✕ {{ reading.trouble }}</p>
    <p v-else-if="reading" class="ok">● wired, and answers as such a signal does</p>
    <p v-else class="dim">◇ nothing is heard from this terminal yet; send its controller first</p>

    <template v-if="isOutput">
      <h3>Drive it</h3>
      <p class="acts">
        <NButton v-for="s in steps" :key="s" size="large" :type="driven === s ? 'primary' : 'default'" :data-step="s" @click="drive(s)">{{ say(s) }}</NButton>
        <NButton v-if="driven !== null" size="large" data-act="restore" @click="restore">Let go</NButton>
      </p>
      <p v-if="driven !== null" class="dim">It goes back by itself in three minutes, or when you leave, whatever happens here.</p>
      <p class="acts">
        <NButton size="large" type="primary" data-act="pass" @click="enter(true)">✓ It does what it should</NButton>
        <NButton size="large" data-act="fail" @click="enter(false)">✕ It does not</NButton>
      </p>
    </template>
    <template v-else-if="isAnalog">
      <label class="row"
        ><span>Instrument shows</span><NumberBox id="check-reference" v-model="reference" :unit="line.unit" aria-label="What the reference instrument shows"
      /></label>
      <label class="row"><span>May be off by</span><NumberBox v-model="allowed" :unit="line.differenceUnit" aria-label="Allowed difference" /></label>
      <p class="dim tiny">{{ line.allowedBecause }}</p>
      <NCheckbox v-model:checked="correct">correct the reading to the instrument</NCheckbox>
      <p class="acts">
        <NButton size="large" type="primary" data-act="compare" @click="enter(null)">Compare</NButton>
        <NButton size="large" data-act="fail" @click="enter(false)">✕ It is wrong</NButton>
      </p>
    </template>
    <template v-else>
      <h3>Which state did you make?</h3>
      <p class="acts">
        <NButton v-for="(s, i) in line.states" :key="s" size="large" :data-step="i" @click="enter(null, i)">{{ s }}</NButton>
      </p>
    </template>
    <label class="row"><span>Remark</span><TextBox id="check-remark" v-model="remark" maxlength="1000" placeholder="what was seen" /></label>

    <p v-if="waits" class="bar medium" role="status">◇ The server does not answer. The check is kept on this device and goes when it does.</p>
    <div v-else-if="last" class="bar" :class="last.passed ? 'moss' : 'crimson'" role="status">
      <b>{{ last.passed ? '✓ Passed' : '✕ Failed' }}</b> · {{ last.who }} {{ when(last.atMilliseconds) }}{{ last.wasLate ? ', sent later' : '' }}<br />
      {{ last.verdict }}<br v-if="last.remark" />{{ last.remark }}
    </div>
    <p v-else-if="line.isStale" class="bar medium">▲ It was checked, and wired otherwise since: check it again.</p>
    <p class="acts">
      <FilePick v-if="last && !waits" :label="last.photos ? 'Add another photo' : 'Add a photo'" accept="image/*" @choose="photo" />
      <NButton size="large" data-act="next" @click="emit('next')">Next ▶</NButton>
    </p>
    <img v-for="n in last?.photos ?? 0" :key="n" :src="api(`/checks/${last!.id}/photo?n=${n - 1}`)" :alt="`Photo ${n} of ${line.terminal}`" />
  </div>
</template>

<style scoped>
.card {
  display: grid;
  gap: 8px;
}
.top {
  display: flex;
  gap: 14px;
  align-items: center;
}
.big {
  font-size: 26px;
}
.values {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 3px 14px;
}
.now {
  font-size: 20px;
}
.ok {
  color: var(--moss);
}
.bar.moss {
  border-color: var(--moss);
}
img {
  max-width: 100%;
  max-height: 320px;
  border-radius: 8px;
}
@media (max-width: 700px) {
  .acts .n-button {
    min-height: 48px;
    flex: 1;
  }
}
</style>
