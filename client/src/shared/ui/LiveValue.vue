<script setup lang="ts">
import { computed } from 'vue'
import { Flag, useStore } from '../store'

/** A live value with its state told by shape: ● live, ◐ held by hand, ◇ stale, ▲ alarm, ✕ fault, ○ released or none; ▣ beside it where what is measured is simulated. */
const props = defineProps<{ id: string; bare?: boolean }>()
const store = useStore()
const value = computed(() => store.live.get(props.id))
const states = [
  [Flag.fault, '✕', 'fault', 'crimson'],
  [Flag.overridden, '◐', 'held by hand', 'plum'],
  [Flag.inAlarm, '▲', 'alarm', 'crimson'],
  [Flag.stale, '◇', 'stale', 'amber'],
  [Flag.released, '○', 'no value', 'ink-2'],
] as const
const simulated = computed(() => !!((value.value?.f ?? 0) & Flag.outOfService))
const state = computed(() => states.find(([flag]) => (value.value?.f ?? Flag.released) & flag) ?? ([0, '●', 'live', 'moss'] as const))
</script>

<template>
  <span class="mono live" :class="{ off: store.lost }" :title="store.lost ? 'not connected: last value known' : simulated ? `${state[2]}, simulated` : state[2]"
    ><span v-if="!bare" role="img" :style="{ color: `var(--${state[3]})` }" :aria-label="state[2]">{{ store.lost ? '◇' : state[1] }}</span>
    <span v-if="simulated" class="simulated" role="img" aria-label="simulated">▣</span> {{ value?.text ?? '–' }}</span
  >
</template>

<style scoped>
.live {
  white-space: nowrap;
}
.simulated {
  color: var(--plum);
}
.off {
  opacity: 0.6;
}
</style>
