<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { get, type Schemas } from '../shared/api/http'
import { siteTime } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { SequenceWork } from './useSequence'
import { pathOf } from './scans'

/** Looking back: the last scans of the sequence, stepped through one by one; what stops it; and what differs between two of them. */
const props = defineProps<{ work: SequenceWork }>()
const store = useStore()
const { isOpen, kept, number, mark, differences, last, at, keep, open, close, step } = props.work.scans
const time = (n: number) => (at(n) === null ? '' : siteTime(at(n)!, store.clock?.timeZone, false, true))
const shown = computed({ get: () => number.value ?? last.value, set: (n: number) => (number.value = n) })
const options = computed(() => (kept.value?.addresses ?? []).map((value) => ({ value, label: props.work.sayAddress(value) })))
const address = ref<string | null>(null)
const form = computed(() => kept.value?.forms[kept.value.addresses.indexOf(address.value ?? '')])
const states = computed(() => (form.value?.stateTexts ?? []).map((label, i) => ({ value: i + (form.value!.kind === 'binary' ? 0 : 1), label })))
const relation = ref<'is' | 'above' | 'below'>('above')
const value = ref<number | null>(null)
watch(address, () => (value.value = states.value.length ? states.value.at(-1)!.value : null))
const stop = () => keep({ address: address.value!, condition: { relation: states.value.length ? 'is' : relation.value, value: value.value!, upper: 0 } })
/** What was picked, over all that is kept. */
const course = shallowRef<{ name: string; of: Schemas['ScanCourse'] }[]>([])
watch(
  () => [isOpen.value, last.value, props.work.picked.value.join()],
  async () => {
    const wanted = isOpen.value ? options.value.filter((o) => props.work.isOfPicked(o.value)).slice(0, 3) : []
    const id = props.work.s.value!.id
    const found = await Promise.all(wanted.map((o) => get('/sequences/{id}/scans/course', { path: { id }, query: { address: o.value } }).catch(() => null)))
    course.value = found.flatMap((of, i) => (of ? [{ name: wanted[i]!.label, of }] : []))
  },
)
const range = (c: Schemas['ScanCourse']) => {
  const all = c.values.filter((v): v is number => v !== null)
  return all.length ? `${Math.min(...all).toFixed(c.binary ? 0 : 1)} … ${Math.max(...all).toFixed(c.binary ? 0 : 1)} ${c.unit ?? ''}` : 'no value'
}
const marker = computed(() => (kept.value && kept.value.at.length > 1 ? ((shown.value - kept.value.first) / (kept.value.at.length - 1)) * 600 : 600))
function key(e: KeyboardEvent) {
  const by = { ArrowLeft: -1, ArrowRight: 1, PageUp: -10, PageDown: 10, Home: -1e6, End: 1e6 }[e.key]
  if (!by) return
  e.preventDefault()
  e.stopPropagation()
  step(by)
}
</script>

<template>
  <section class="sheet scans" aria-label="Looking back">
    <div class="head">
      <NButton v-if="!isOpen" id="look-back" size="small" @click="open">Look back</NButton>
      <template v-else>
        <NButton size="small" aria-label="One scan back" @click="step(-1)">◀</NButton>
        <NButton size="small" aria-label="One scan on" @click="step(1)">▶</NButton>
        <NSlider
          v-model:value="shown"
          class="slide"
          :min="kept?.first ?? 0"
          :max="Math.max(last, (kept?.first ?? 0) + 1)"
          :tooltip="false"
          aria-label="Scan"
          @keydown.capture="key"
        />
        <span class="mono when">{{ kept?.at.length ? time(shown) : 'waits for the first scan' }}</span>
        <NButton v-if="number !== null" size="small" type="primary" @click="number = null">Now</NButton>
        <FactTag v-else tone="moss">▶ now</FactTag>
        <NButton size="small" :disabled="number === null" @click="mark = number">Mark</NButton>
        <NButton size="small" quaternary aria-label="Stop looking back" @click="close">✕</NButton>
      </template>
      <span v-if="!isOpen" class="dim tiny">keeps the last 600 scans from now on, to step through, to stop on a condition, to lay side by side</span>
    </div>
    <template v-if="isOpen">
      <div class="head">
        <span class="dim">Stop when</span>
        <PickOne v-model="address" size="small" :options="options" placeholder="a value" aria-label="What stops it" class="what" />
        <template v-if="address && states.length"
          ><span>is</span><PickOne v-model="value" size="small" :options="states" aria-label="State" class="is"
        /></template>
        <template v-else-if="address"
          ><PickOne v-model="relation" size="small" :options="['above', 'below']" aria-label="Above or below" class="is" /><NumberBox
            v-model="value"
            size="small"
            :unit="form?.unit"
            :width="100"
            aria-label="Value that stops it"
        /></template>
        <NButton size="small" :disabled="!address || value === null" data-stop @click="stop">Stop then</NButton>
        <FactTag v-if="kept?.stoppedAt" tone="amber">■ stopped at {{ time(kept.stoppedAt) }}</FactTag>
        <FactTag v-else-if="kept?.stop">waits for it</FactTag>
        <NButton v-if="kept?.stoppedAt || kept?.stop" size="small" @click="keep(null)">Go on</NButton>
      </div>
      <div v-for="c in course" :key="c.name" class="course">
        <span class="name">{{ c.name }}</span>
        <svg viewBox="0 0 600 40" preserveAspectRatio="none" role="img" :aria-label="`${c.name}: ${range(c.of)}`">
          <path :d="pathOf(c.of.values, c.of.binary)" />
          <line :x1="marker" :x2="marker" y1="0" y2="40" />
        </svg>
        <span class="mono dim">{{ range(c.of) }}</span>
      </div>
      <NTable v-if="mark !== null && number !== null" size="small" :bordered="false" class="close">
        <thead>
          <tr>
            <th>Against the mark</th>
            <th>{{ time(mark) }}</th>
            <th>{{ time(number) }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="d in differences" :key="d.address">
            <td>{{ work.sayAddress(d.address) }}</td>
            <td class="mono">{{ d.before }}</td>
            <td class="mono">{{ d.after }}</td>
          </tr>
          <tr v-if="!differences.length">
            <td colspan="3" class="dim">nothing differs</td>
          </tr>
        </tbody>
      </NTable>
    </template>
  </section>
</template>

<style scoped>
.scans {
  display: grid;
  gap: 6px;
  padding-block: 8px;
}
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.slide {
  flex: 1 1 200px;
}
.when {
  min-width: 76px;
}
.what {
  flex: 0 1 240px;
}
.is {
  width: 110px;
}
.course {
  display: grid;
  grid-template-columns: 150px minmax(0, 1fr) 130px;
  gap: 8px;
  align-items: center;
}
svg {
  height: 40px;
  width: 100%;
}
path {
  fill: none;
  stroke: var(--plum);
  stroke-width: 1.5;
  vector-effect: non-scaling-stroke;
}
line {
  stroke: var(--russet);
  vector-effect: non-scaling-stroke;
}
</style>
