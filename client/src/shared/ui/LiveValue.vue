<script setup lang="ts">
import { computed } from 'vue'
import { Flag, useStore } from '../store'

/** A live value with its state told by shape: ● live, ◐ held by hand, ◇ stale, ▲ alarm, ✕ fault, ○ released or none. */
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
const state = computed(() => states.find(([flag]) => (value.value?.f ?? Flag.released) & flag) ?? ([0, '●', 'live', 'moss'] as const))
</script>

<template>
  <span class="mono live" :class="{ off: store.lost }" :title="store.lost ? 'not connected: last value known' : state[2]"
    ><span v-if="!bare" role="img" :style="{ color: `var(--${state[3]})` }" :aria-label="state[2]">{{ store.lost ? '◇' : state[1] }}</span>
    {{ value?.text ?? '–' }}</span
  >
</template>

<style scoped>
.live {
  white-space: nowrap;
}
.off {
  opacity: 0.6;
}
</style>
