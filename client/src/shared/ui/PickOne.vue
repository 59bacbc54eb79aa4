<script setup lang="ts" generic="T extends string | number">
import { NSelect, type SelectInst } from 'naive-ui'
import { computed, ref, useAttrs } from 'vue'
import { useInner } from './useInner'

/** One of several choices; typing narrows them down. Named and read out as a combobox. */
defineOptions({ inheritAttrs: false })
type Option = T | { value: T; label: string; disabled?: boolean }
const props = defineProps<{
  modelValue?: T | null
  options: readonly Option[]
  placeholder?: string
  disabled?: boolean
  size?: 'tiny' | 'small' | 'medium'
  clearable?: boolean
}>()
const emit = defineEmits<{ 'update:modelValue': [value: T] }>()
const attrs = useAttrs()
const list = computed(() => props.options.map((o) => (typeof o === 'object' ? o : { value: o, label: String(o) })))
const says = computed(() => list.value.find((o) => o.value === props.modelValue)?.label ?? props.placeholder ?? '')
const select = ref<SelectInst & { $el: HTMLElement }>()
const open = ref(false)
const menuId = `pick-${Math.random().toString(36).slice(2)}`
// The library's focus stands on a plain box; this gives it its name and what it is.
useInner(select, '.n-base-selection-label', () => ({
  ...attrs,
  role: 'combobox',
  'aria-haspopup': 'listbox',
  'aria-expanded': open.value,
  'aria-controls': open.value ? menuId : null,
  title: says.value,
}))
defineExpose({ focus: () => select.value?.focus() })
</script>

<template>
  <NSelect
    ref="select"
    :data-open="open"
    class="pick"
    :class="$attrs.class"
    :style="$attrs.style as string"
    :value="modelValue ?? null"
    :options="list as never"
    :placeholder="placeholder ?? ''"
    :disabled="disabled"
    :size="size"
    :clearable="clearable"
    :filterable="list.length > 8"
    :consistent-menu-width="false"
    :input-props="{ 'aria-label': String($attrs['aria-label'] ?? 'narrow down') } as never"
    :menu-props="{ role: 'listbox', id: menuId, 'aria-label': String($attrs['aria-label'] ?? 'choices') } as never"
    :node-props="() => ({ role: 'option' }) as never"
    @update:show="(s: boolean) => (open = s)"
    @update:value="(v: T) => emit('update:modelValue', v)"
  />
</template>
