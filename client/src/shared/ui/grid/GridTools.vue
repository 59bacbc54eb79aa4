<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '../../api/http'

/** Which columns a grid shows, and in which order. */
defineProps<{ ordered: Schemas['FieldView'][] }>()
const hidden = defineModel<string[]>('hidden', { required: true })
const emit = defineEmits<{ move: [key: string, by: 1 | -1] }>()
const open = ref(false)
const turn = (key: string) => (hidden.value = hidden.value.includes(key) ? hidden.value.filter((k) => k !== key) : [...hidden.value, key])
</script>

<template>
  <NPopover v-model:show="open" trigger="click" placement="bottom-end" :show-arrow="false">
    <template #trigger><NButton size="small" :aria-expanded="open">Columns</NButton></template>
    <div class="columns">
      <span v-for="(c, i) in ordered.slice(1)" :key="c.key" class="one"
        ><NCheckbox :checked="!hidden.includes(c.key)" @update:checked="turn(c.key)">{{ c.label }}</NCheckbox
        ><span class="space" /><NButton size="tiny" :disabled="i === 0" :aria-label="`${c.label} further left`" @click="emit('move', c.key, -1)">←</NButton
        ><NButton size="tiny" :disabled="i === ordered.length - 2" :aria-label="`${c.label} further right`" @click="emit('move', c.key, 1)">→</NButton></span
      >
    </div>
  </NPopover>
</template>

<style scoped>
.columns {
  display: grid;
  gap: 3px;
}
.one {
  display: flex;
  gap: 4px;
  align-items: center;
}
</style>
