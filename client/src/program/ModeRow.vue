<script setup lang="ts">
import { computed } from 'vue'
import type { Block, Source } from '../shared/api/records'
import ModeCell from './ModeCell.vue'
import { cell, columnsOf, modesOf, until, when, withCell, withMode, withMovedMode, withoutMode, type Mode } from './modes'
import SourceInput from './SourceInput.vue'
import type { SequenceWork } from './useSequence'

/** One mode of a table: when it comes and goes, how long it lasts, and what each column says in it. */
const props = defineProps<{ work: SequenceWork; block: Block; mode: Mode; rank: number; isNow: boolean; unfolded: boolean }>()
const emit = defineEmits<{ fold: [] }>()
const { s, may } = props.work
const modes = computed(() => modesOf(props.block))
const called = computed(() => props.work.say(props.block))
const isLast = computed(() => modes.value.at(-1)?.slot === props.mode.slot)
const set = (patch: Partial<Mode>, label = `Changed mode ‘${props.mode.name}’ of ‘${called.value}’`) =>
  props.work.save(withMode(s.value!, props.block, props.mode.slot, patch), label)
const rename = (name: string) => name && name !== props.mode.name && set({ name }, `Renamed mode ‘${props.mode.name}’ to ‘${name}’`)
const source = (pin: string) => props.work.sourceText(props.block.inputs?.[pin])
const says = (c: number) => (props.mode.releases?.includes(c) ? 'released' : source(cell(c, props.mode.slot)))
const say = (c: number, name: string, x: Source | 'released' | null) =>
  props.work.save(withCell(s.value!, props.block, c, props.mode.slot, x), `${name} in ${props.mode.name} of ‘${called.value}’`)
/** What brings the mode and what ends it, each with the time it takes. */
const conditions = computed(() => [
  { pin: when(props.mode.slot), label: `${props.mode.name} comes when`, none: 'type a source', time: 'enterAfter' as const },
  { pin: until(props.mode.slot), label: `${props.mode.name} goes when`, none: 'when that is gone', time: 'leaveAfter' as const },
])
const acts = computed(() => [
  { key: 'fold', label: props.unfolded ? 'Fold' : 'How it comes…' },
  { key: 'up', label: 'Up', disabled: props.rank === 1 },
  { key: 'down', label: 'Down', disabled: isLast.value },
  { key: 'remove', label: 'Remove', disabled: modes.value.length === 1 },
])
const run: Record<string, () => unknown> = {
  fold: () => emit('fold'),
  up: () => props.work.save(withMovedMode(s.value!, props.block, props.mode.slot, -1), `Moved mode ‘${props.mode.name}’ up`),
  down: () => props.work.save(withMovedMode(s.value!, props.block, props.mode.slot, 1), `Moved mode ‘${props.mode.name}’ down`),
  remove: () => props.work.save(withoutMode(s.value!, props.block, props.mode.slot), `Removed mode ‘${props.mode.name}’ of ‘${called.value}’`),
}
</script>

<template>
  <div role="row" class="line" :class="{ now: isNow }" :data-mode="mode.slot">
    <span role="cell" class="mono rank">{{ isNow ? '▶ ' : '' }}{{ rank }}</span>
    <span role="cell"
      ><TextBox
        lazy
        size="small"
        :model-value="mode.name"
        maxlength="30"
        :disabled="!may"
        :aria-label="`Name of mode ${rank}`"
        @update:model-value="(name: string) => rename(name.trim())"
    /></span>
    <template v-if="isLast"><span role="cell" class="dim tiny">when no other holds</span><span role="cell" class="dim tiny">when another holds</span></template>
    <template v-else>
      <span v-for="c in conditions" :key="c.pin" role="cell" class="two"
        ><SourceInput
          :sequence-id="s!.id"
          :says="source(c.pin)"
          :disabled="!may"
          :label="c.label"
          :placeholder="c.none"
          :data-pin="c.pin"
          @choose="(x) => work.setInput(block.id, c.pin, x)" /><NumberBox
          size="small"
          :width="66"
          unit="s"
          :model-value="mode[c.time] ?? 0"
          :disabled="!may"
          :aria-label="`${c.label}, for`"
          @update:model-value="(v) => set({ [c.time]: v ?? 0 })"
      /></span>
    </template>
    <span role="cell"
      ><NumberBox
        size="small"
        :width="72"
        unit="s"
        :model-value="mode.least ?? 0"
        :disabled="!may"
        :aria-label="`${mode.name} lasts at least`"
        @update:model-value="(v) => set({ least: v ?? 0 })"
    /></span>
    <span role="cell"
      ><NumberBox
        v-if="!isLast"
        size="small"
        :width="72"
        unit="s"
        :model-value="mode.most || null"
        :disabled="!may"
        placeholder="–"
        :aria-label="`${mode.name} lasts at most`"
        @update:model-value="(v) => set({ most: v ?? 0 })"
    /></span>
    <ModeCell
      v-for="c in columnsOf(block)"
      :key="c.slot"
      role="cell"
      :work="work"
      :says="says(c.slot)"
      :label="`${c.name} in ${mode.name}`"
      :pin="cell(c.slot, mode.slot)"
      @say="(x) => say(c.slot, c.name, x)"
    />
    <span role="cell"
      ><NDropdown v-if="may" trigger="click" :options="acts" :keyboard="true" @select="(act: string) => run[act]!()"
        ><NButton size="small" quaternary :aria-label="`What to do with mode ${mode.name}`">⋯</NButton></NDropdown
      ></span
    >
  </div>
</template>

<style scoped>
.line {
  display: contents;
}
.two {
  display: flex;
  gap: 4px;
  align-items: center;
}
.rank {
  text-align: right;
  white-space: nowrap;
}
.now > span {
  box-shadow: inset 3px 0 var(--plum);
  padding-left: 5px;
}
.now .rank {
  color: var(--plum);
  font-weight: 600;
}
</style>
