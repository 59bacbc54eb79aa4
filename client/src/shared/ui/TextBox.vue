<script setup lang="ts">
import { NInput, type InputInst } from 'naive-ui'
import { computed, ref, useAttrs } from 'vue'

/** A line or several of text. What is said of it (id, label, required, data) stands at the input itself. With `lazy` it speaks when it is left or Enter is pressed. */
defineOptions({ inheritAttrs: false })
const props = withDefaults(
  defineProps<{
    modelValue?: string | null
    lazy?: boolean
    mono?: boolean
    type?: 'text' | 'password' | 'textarea'
    placeholder?: string
    disabled?: boolean
    rows?: number
    size?: 'tiny' | 'small' | 'medium'
    /** Words about what stands in it that is wrong; the form it is in is not sent meanwhile. */
    wrong?: string
  }>(),
  { placeholder: '', size: 'medium' },
)
const emit = defineEmits<{ 'update:modelValue': [text: string]; change: [text: string] }>()
const attrs = useAttrs()
const box = ref<InputInst>()
const rest = computed(() => Object.fromEntries(Object.entries(attrs).filter(([k]) => k !== 'class' && k !== 'style')))
const typed = ref<string | null>(null)
const shown = computed(() => typed.value ?? props.modelValue ?? '')
function input(text: string) {
  if (props.lazy) typed.value = text
  else emit('update:modelValue', text)
}
function left(text: string) {
  typed.value = null
  if (props.lazy) emit('update:modelValue', text)
  emit('change', text)
}
const element = () => box.value?.inputElRef ?? box.value?.textareaElRef
defineExpose({ focus: () => box.value?.focus(), select: () => box.value?.select(), element, put: (text: string) => (typed.value = text) })
</script>

<template>
  <NInput
    ref="box"
    :class="$attrs.class"
    :style="$attrs.style as string"
    :value="shown"
    :type="type ?? 'text'"
    :rows="rows"
    :autosize="type === 'textarea' && !rows ? { minRows: 1, maxRows: 8 } : undefined"
    :placeholder="placeholder"
    :disabled="disabled"
    :size="size"
    :status="wrong ? 'error' : undefined"
    :title="wrong"
    :show-password-on="type === 'password' ? 'click' : undefined"
    :input-props="{ ...rest, class: mono ? 'mono' : '', 'aria-invalid': wrong ? true : undefined } as never"
    @update:value="input"
    @change="left"
  >
    <template v-if="$slots.suffix" #suffix><slot name="suffix" /></template>
  </NInput>
</template>
