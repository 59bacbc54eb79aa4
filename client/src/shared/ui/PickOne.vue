<script setup lang="ts" generic="T extends string | number">
import { NSelect, type SelectInst } from 'naive-ui'
import { computed, onMounted, ref, useAttrs, watch, watchEffect } from 'vue'

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
const focusable = ref<HTMLElement | null>(null)
const find = () => (focusable.value = select.value?.$el.querySelector<HTMLElement>('.n-base-selection-label') ?? null)
onMounted(find)
watch(() => props.disabled, find, { flush: 'post' })
watchEffect(() => {
  const el = focusable.value
  if (!el) return
  for (const [k, v] of Object.entries(attrs)) if (k !== 'class' && k !== 'style' && typeof v !== 'function' && v != null) el.setAttribute(k, String(v))
  el.setAttribute('role', 'combobox')
  el.setAttribute('aria-haspopup', 'listbox')
  el.setAttribute('aria-expanded', String(open.value))
  if (open.value) el.setAttribute('aria-controls', menuId)
  else el.removeAttribute('aria-controls')
  el.setAttribute('title', says.value)
})
defineExpose({ focus: () => select.value?.focus() })
</script>

<template>
  <NSelect
    ref="select"
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
