<script setup lang="ts">
import type { Schemas } from '../shared/api/http'
import { change, put, type Fitting } from '../shared/api/records'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import TieBox from './TieBox.vue'

/** One terminal: the point on it, its signal and what that means, what it is tied to; or what a spare one could carry. */
type Terminal = Schemas['PanelTerminal']
const props = defineProps<{ terminal: Terminal; reading?: Schemas['TerminalReading']; unplaced: readonly Schemas['UnplacedPoint'][]; may: boolean }>()
const emit = defineEmits<{ place: [pointId: string, terminal: string]; remove: [terminal: Terminal] }>()
const store = useStore()
const attempt = useDo()
const save = (patch: Partial<Fitting>) => attempt(() => change([put('fitting', { ...props.terminal.fitting!, ...patch }, props.terminal.revision!)]))
const FEW = 12
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
          :options="terminal.signals.map((s) => ({ value: s.signal, label: s.name }))"
          :disabled="!may"
          aria-label="Signal"
          @update:model-value="(signal: Schemas['Signal']) => save({ signal })"
      /></label>
      <p class="kv">
        <span class="dim">Measured</span><span class="mono">{{ reading?.raw ?? '–' }} {{ reading?.unit }}</span>
      </p>
      <template v-if="terminal.asksRange">
        <label
          v-for="[key, text] in [
            ['low', 'At the low end'],
            ['high', 'At the high end'],
          ] as const"
          :key="key"
          class="row"
          ><span>{{ text }}</span
          ><NumberBox
            :model-value="terminal.fitting[key]"
            :unit="terminal.point.unit"
            :disabled="!may"
            :aria-label="text"
            @update:model-value="(v) => save({ [key]: v ?? 0 })"
        /></label>
      </template>
      <label v-if="terminal.asksCorrection" class="row"
        ><span>Correction</span
        ><NumberBox
          :model-value="terminal.fitting.correction"
          :unit="terminal.correctionUnit"
          :disabled="!may"
          aria-label="Correction"
          @update:model-value="(v) => save({ correction: v ?? 0 })"
      /></label>
      <NCheckbox v-if="terminal.asksTurn" :checked="terminal.fitting.inverted" :disabled="!may" @update:checked="(inverted: boolean) => save({ inverted })"
        >turned round</NCheckbox
      >
      <TieBox :point-id="terminal.point.id" />
      <p class="acts">
        <NButton size="small" @click="store.selected = terminal.point.id">Dossier</NButton
        ><NButton v-if="may" size="small" @click="emit('remove', terminal)">Take off</NButton>
      </p>
    </template>
    <template v-else>
      <h2>Spare</h2>
      <p class="dim">Can carry {{ terminal.signals.map((s) => s.name).join(', ') }}. Drag a point here, or choose one:</p>
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
