<script setup lang="ts">
import { NDatePicker } from 'naive-ui'
import { ref, useAttrs } from 'vue'
import { useInner } from './useInner'

/** A day as ISO writes it, 2026-03-09, or with `time` a moment, 2026-03-09 07:20; weeks begin on Monday. */
defineOptions({ inheritAttrs: false })
defineProps<{ modelValue?: string | null; time?: boolean; disabled?: boolean; placeholder?: string; clearable?: boolean; size?: 'small' | 'medium' }>()
const emit = defineEmits<{ 'update:modelValue': [day: string] }>()
const attrs = useAttrs()
const picker = ref<InstanceType<typeof NDatePicker> & { $el: HTMLElement }>()
useInner(picker, 'input', () => attrs)
</script>

<template>
  <NDatePicker
    ref="picker"
    :class="$attrs.class"
    :style="($attrs.style as string) ?? `width: ${time ? 190 : 140}px`"
    :type="time ? 'datetime' : 'date'"
    :format="time ? 'yyyy-MM-dd HH:mm' : 'yyyy-MM-dd'"
    :value-format="time ? 'yyyy-MM-dd HH:mm' : 'yyyy-MM-dd'"
    :first-day-of-week="0"
    :actions="time ? ['confirm'] : null"
    :formatted-value="modelValue || null"
    :disabled="disabled"
    :clearable="clearable"
    :size="size"
    :placeholder="placeholder ?? (time ? 'yyyy-mm-dd hh:mm' : 'yyyy-mm-dd')"
    @update:formatted-value="(v: string | null) => emit('update:modelValue', v ?? '')"
  />
</template>
