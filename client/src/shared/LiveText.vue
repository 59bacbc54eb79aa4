<script setup lang="ts">
import { computed } from 'vue'
import { Flag, useStore } from './store'

/** A live value with its state told by shape: ● live, ◐ held by hand, ◇ stale, ▲ alarm, ✕ fault, ○ released or none. */
const props = defineProps<{ id: string; bare?: boolean }>()
const store = useStore()
const value = computed(() => store.live.get(props.id))
const state = computed(() => {
  const f = value.value?.f ?? Flag.released
  if (f & Flag.fault) return ['✕', 'fault', 'crimson']
  if (f & Flag.overridden) return ['◐', 'held by hand', 'plum']
  if (f & Flag.inAlarm) return ['▲', 'alarm', 'crimson']
  if (f & Flag.stale) return ['◇', 'stale', 'amber']
  if (f & Flag.released) return ['○', 'no value', 'dim']
  return ['●', 'live', 'moss']
})
</script>

<template>
  <span class="mono live" :class="{ off: !store.connected }" :title="store.connected ? state[1] : 'not connected: last value known'"
    ><span v-if="!bare" :class="['mark', state[2]]" :aria-label="state[1]">{{ store.connected ? state[0] : '◇' }}</span> {{ value?.text ?? '–' }}</span
  >
</template>

<style scoped>
.live {
  white-space: nowrap;
}
.mark.crimson {
  color: var(--crimson);
}
.mark.plum {
  color: var(--plum);
}
.mark.amber {
  color: var(--amber);
}
.mark.moss {
  color: var(--moss);
}
.mark.dim {
  color: var(--ink-2);
}
.off {
  opacity: 0.6;
}
</style>
