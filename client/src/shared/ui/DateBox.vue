<script setup lang="ts">
import { NDatePicker } from 'naive-ui'
import { computed, useAttrs } from 'vue'

/** A day as ISO writes it, 2026-03-09; weeks begin on Monday. */
defineOptions({ inheritAttrs: false })
defineProps<{ modelValue?: string | null; disabled?: boolean; placeholder?: string; clearable?: boolean; size?: 'small' | 'medium' }>()
const emit = defineEmits<{ 'update:modelValue': [day: string] }>()
const attrs = useAttrs()
const rest = computed(() => Object.fromEntries(Object.entries(attrs).filter(([k]) => k !== 'class' && k !== 'style')))
</script>

<template>
  <NDatePicker
    :class="$attrs.class"
    :style="($attrs.style as string) ?? 'width: 140px'"
    type="date"
    format="yyyy-MM-dd"
    value-format="yyyy-MM-dd"
    :first-day-of-week="0"
    update-value-on-close
    :actions="null"
    :formatted-value="modelValue || null"
    :disabled="disabled"
    :clearable="clearable"
    :size="size"
    :placeholder="placeholder ?? 'yyyy-mm-dd'"
    :input-props="rest as never"
    @update:formatted-value="(v: string | null) => emit('update:modelValue', v ?? '')"
  />
</template>
