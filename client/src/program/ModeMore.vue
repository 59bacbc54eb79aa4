<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../shared/api/http'
import type { Mode } from './modes'

/** How a mode comes: from which others, at once or not, after which starts, and what its condition counts as while it cannot be read. */
const props = defineProps<{ mode: Mode; modes: readonly Mode[]; disabled: boolean }>()
const emit = defineEmits<{ set: [patch: Partial<Mode>] }>()
const others = computed(() => props.modes.filter((m) => m.slot !== props.mode.slot).map((m) => ({ value: m.slot, label: m.name })))
const starts: { value: Schemas['RestartReason']; label: string }[] = [
  { value: 'coldstart', label: 'cold start' },
  { value: 'warmstart', label: 'warm start' },
  { value: 'detectedPowerLost', label: 'power return' },
  { value: 'suspended', label: 'resumed' },
  { value: 'activateChanges', label: 'new program' },
]
const unread: { value: Schemas['UnreadCondition']; label: string }[] = [
  { value: 'no', label: 'as not holding' },
  { value: 'yes', label: 'as holding' },
  { value: 'asWas', label: 'as it was' },
]
</script>

<template>
  <div class="line" role="row">
    <div class="more" role="cell">
      <label
        ><span>comes only from</span
        ><NSelect
          size="small"
          multiple
          :value="mode.from ?? []"
          :options="others"
          :disabled="disabled"
          placeholder="any mode"
          @update:value="(from: number[]) => emit('set', { from })"
      /></label>
      <label
        ><span>is first after</span
        ><NSelect
          size="small"
          multiple
          :value="mode.starts ?? []"
          :options="starts"
          :disabled="disabled"
          placeholder="no start of the controller"
          @update:value="(v: Schemas['RestartReason'][]) => emit('set', { starts: v })"
      /></label>
      <label
        ><span>while its condition cannot be read it counts</span
        ><PickOne
          :model-value="mode.unread ?? 'no'"
          :options="unread"
          :disabled="disabled"
          aria-label="While its condition cannot be read it counts"
          @update:model-value="(v: Schemas['UnreadCondition']) => emit('set', { unread: v })"
      /></label>
      <NCheckbox :checked="mode.atOnce" :disabled="disabled" @update:checked="(atOnce: boolean) => emit('set', { atOnce })"
        >comes at once, and cuts short how long others last at least</NCheckbox
      >
    </div>
  </div>
</template>

<style scoped>
.line {
  display: contents;
}
.more {
  grid-column: 1 / -1;
  position: sticky;
  left: 0;
  width: min(100%, 880px);
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  align-items: center;
  background: var(--sunk);
  border-radius: 6px;
  padding: 6px 10px;
}
.more label {
  display: flex;
  gap: 6px;
  align-items: center;
}
.more :deep(.n-select) {
  min-width: 170px;
}
</style>
