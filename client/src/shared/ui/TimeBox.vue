<script setup lang="ts">
import { NTimePicker } from 'naive-ui'
import { computed, useAttrs } from 'vue'

/** A time of day in 24 hours, 07:30. */
defineOptions({ inheritAttrs: false })
defineProps<{ modelValue?: string | null; disabled?: boolean; placeholder?: string }>()
const emit = defineEmits<{ 'update:modelValue': [time: string] }>()
const attrs = useAttrs()
const rest = computed(() => Object.fromEntries(Object.entries(attrs).filter(([k]) => k !== 'class' && k !== 'style')))
</script>

<template>
  <NTimePicker
    :class="$attrs.class"
    :style="($attrs.style as string) ?? 'width: 96px'"
    format="HH:mm"
    value-format="HH:mm"
    :actions="['confirm']"
    :formatted-value="modelValue || null"
    :disabled="disabled"
    :placeholder="placeholder ?? 'hh:mm'"
    :input-props="rest as never"
    @update:formatted-value="(v: string | null) => emit('update:modelValue', v ?? '')"
  />
</template>
