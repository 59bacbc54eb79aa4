<script setup lang="ts">
import { NTimePicker } from 'naive-ui'
import { ref, useAttrs } from 'vue'
import { useInner } from './useInner'

/** A time of day in 24 hours, 07:30. */
defineOptions({ inheritAttrs: false })
defineProps<{ modelValue?: string | null; disabled?: boolean; placeholder?: string }>()
const emit = defineEmits<{ 'update:modelValue': [time: string] }>()
const attrs = useAttrs()
const picker = ref<InstanceType<typeof NTimePicker> & { $el: HTMLElement }>()
useInner(picker, 'input', () => attrs)
</script>

<template>
  <NTimePicker
    ref="picker"
    :class="$attrs.class"
    :style="($attrs.style as string) ?? 'width: 96px'"
    format="HH:mm"
    value-format="HH:mm"
    :actions="['confirm']"
    :formatted-value="modelValue || null"
    :disabled="disabled"
    :placeholder="placeholder ?? 'hh:mm'"
    @update:formatted-value="(v: string | null) => emit('update:modelValue', v ?? '')"
  />
</template>
