<script setup lang="ts">
import { computed } from 'vue'
import { useShown } from '../shared/api/cache'
import type { Schemas } from '../shared/api/http'
import { change, put, type Fitting } from '../shared/api/records'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import TieBox from './TieBox.vue'

/** One terminal: the point on it, its signal and what that means, what it is tied to; or what a spare one could carry. */
type Terminal = Schemas['PanelTerminalView']
const props = defineProps<{
  terminal: Terminal
  reading?: Schemas['TerminalReading']
  unplaced: readonly Schemas['UnplacedPoint'][]
  may: boolean
}>()
const emit = defineEmits<{ place: [pointId: string, terminal: string]; remove: [terminal: Terminal] }>()
const store = useStore()
const attempt = useDo()
const save = (patch: Partial<Fitting>) => attempt(() => change([put('fitting', { ...props.terminal.fitting!, ...patch }, props.terminal.revision!)]))
const FEW = 12
const { value: signals } = useShown('/signals', () => ({}), 'fixed')
const carried = computed(() => (signals.value ?? []).filter((s) => props.terminal.signals.includes(s.key)))
const signal = computed(() => signals.value?.find((s) => s.key === props.terminal.fitting?.signal))
/** What the signal asks for: key of the setting, what it is called, its unit. */
const numbers = computed(() => {
  const [s, f, unit] = [signal.value, props.terminal.fitting, props.terminal.point?.unit]
  if (!s || !f) return []
  return [
    ...(s.asksRange && !(s.mayCurve && f.curveId) ? [['low', 'At the low end', unit] as const, ['high', 'At the high end', unit] as const] : []),
    ...(s.asksLead ? [['leadOhms', 'Wires', 'Ω'] as const] : []),
    ...(s.asksPerPulse ? [['perPulse', 'Each pulse', unit] as const] : []),
    ...(s.asksRunTime ? [['runTimeSeconds', 'Run time', 's'] as const] : []),
    ...(s.asksLoad ? [['loadAmps', 'Switches', 'A'] as const] : []),
    ...(props.terminal.asksCorrection ? [['correction', 'Correction', props.terminal.correctionUnit] as const] : []),
  ]
})
const { value: curve } = useShown('/records/{id}', () => (props.terminal.fitting?.curveId ? { path: { id: props.terminal.fitting.curveId } } : null), [
  'sensorCurve',
])
</script>

<template>
  <div class="sheet pane">
    <span class="dim">Terminal {{ terminal.terminal }} · {{ terminal.group }}</span>
    <template v-if="terminal.point && terminal.fitting">
      <h2>{{ terminal.point.name }}</h2>
      <p class="dim">{{ terminal.path }}</p>
      <p class="big"><LiveValue :id="`p:${terminal.point.id}`" /></p>
      <p v-if="reading?.trouble" class="bar crimson">✕ {{ terminal.terminal }}: {{ reading.trouble }}.</p>
      <label class="row"
        ><span>Signal</span
        ><PickOne
          :model-value="terminal.fitting.signal"
          :options="carried.map((s) => ({ value: s.key, label: s.name }))"
          :disabled="!may"
          aria-label="Signal"
          @update:model-value="(key) => save({ signal: key as Schemas['Signal'], toleranceClass: null } as Partial<Fitting>)"
      /></label>
      <p class="kv">
        <span class="dim">Measured</span><span class="mono">{{ reading?.raw ?? '–' }} {{ reading?.unit }}</span>
      </p>
      <label v-for="[key, text, unit] in numbers" :key="key" class="row"
        ><span>{{ text }}</span
        ><NumberBox
          :model-value="terminal.fitting[key]"
          :unit="unit"
          :disabled="!may"
          :aria-label="text"
          @update:model-value="(v) => save({ [key]: v ?? (key === 'loadAmps' ? null : 0) } as Partial<Fitting>)"
      /></label>
      <label v-if="signal?.asksCurve || signal?.mayCurve" class="row"
        ><span>Curve</span
        ><RecordPicker
          id="curve"
          nouns="sensor curve"
          :placeholder="curve?.record.name ?? 'words of a curve'"
          aria-label="Curve"
          :disabled="!may"
          @choose="(hit) => save({ curveId: hit?.id ?? null } as Partial<Fitting>)"
      /></label>
      <p v-if="terminal.fitting.curveId" class="kv">
        <span class="dim">by curve</span
        ><span
          >{{ curve?.record.name
          }}<NButton v-if="may && signal?.mayCurve" size="tiny" text @click="save({ curveId: null } as Partial<Fitting>)">&nbsp;use the range</NButton></span
        >
      </p>
      <label v-if="signal?.classes.length" class="row"
        ><span>Class</span
        ><PickOne
          :model-value="terminal.fitting.toleranceClass ?? ''"
          :options="[{ value: '', label: 'not known' }, ...signal.classes.map((c) => ({ value: c, label: c }))]"
          :disabled="!may"
          aria-label="Class of accuracy"
          @update:model-value="(c) => save({ toleranceClass: c || null } as Partial<Fitting>)"
      /></label>
      <p class="kv">
        <span class="dim">Cable</span><span class="mono">{{ terminal.cable }}</span>
      </p>
      <p v-if="terminal.rating" class="kv">
        <span class="dim">Rated</span><span>{{ terminal.rating }}</span>
      </p>
      <NCheckbox v-if="terminal.asksTurn" :checked="terminal.fitting.inverted" :disabled="!may" @update:checked="(inverted: boolean) => save({ inverted })"
        >turned round</NCheckbox
      >
      <TieBox :point-id="terminal.point.id" />
      <p class="acts">
        <NButton size="small" @click="store.selected = terminal.point.id">Dossier</NButton
        ><LinkButton v-if="may" size="small" :to="`/wire/replace/${terminal.point.id}`">Replace the device…</LinkButton
        ><NButton v-if="may" size="small" @click="emit('remove', terminal)">Take off</NButton>
      </p>
    </template>
    <template v-else>
      <h2>Spare</h2>
      <p class="dim">Can carry {{ carried.map((s) => s.name).join(', ') }}. Drag a point here, or choose one:</p>
      <p class="acts">
        <NButton v-for="r in unplaced.slice(0, FEW)" :key="r.point.id" size="small" :disabled="!may" @click="emit('place', r.point.id, terminal.terminal)"
          >{{ r.owner }} · {{ r.point.name }}</NButton
        >
      </p>
    </template>
  </div>
</template>

<style scoped>
.pane {
  display: grid;
  gap: 6px;
}
.big {
  font-size: 21px;
  color: var(--plum);
}
.kv {
  display: grid;
  grid-template-columns: 130px 1fr;
  gap: 8px;
}
</style>
