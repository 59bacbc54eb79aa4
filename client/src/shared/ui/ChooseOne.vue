<script setup lang="ts" generic="T extends string | number | boolean">
import { NRadioButton, NRadioGroup } from 'naive-ui'

/** A few choices side by side, one of which holds. */
defineProps<{ modelValue: T; options: readonly { value: T; label: string; disabled?: boolean; data?: string }[]; label: string; size?: 'small' | 'medium' }>()
const emit = defineEmits<{ 'update:modelValue': [value: T] }>()
</script>

<template>
  <NRadioGroup
    :value="modelValue as string"
    :size="size"
    :aria-label="label"
    role="radiogroup"
    @update:value="(v: unknown) => emit('update:modelValue', v as T)"
  >
    <NRadioButton v-for="o in options" :key="String(o.value)" :value="o.value as string" :disabled="o.disabled" :data-choice="String(o.data ?? o.value)">{{
      o.label
    }}</NRadioButton>
  </NRadioGroup>
</template>
