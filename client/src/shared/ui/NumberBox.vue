<script setup lang="ts">
import { ref, watch } from 'vue'
import { readNumber } from './readNumber'
import TextBox from './TextBox.vue'

/**
 * A number with its unit beside it. It speaks when it is left or Enter is pressed; what is no number stays to be seen, is said
 * to be none, and holds back the form. A comma may stand for the point. Empty is null.
 */
const props = defineProps<{ modelValue?: number | null; unit?: string | null; disabled?: boolean; size?: 'tiny' | 'small' | 'medium'; width?: number }>()
const emit = defineEmits<{ 'update:modelValue': [value: number | null] }>()
const box = ref<InstanceType<typeof TextBox>>()
const wrong = ref('')
function say(words: string) {
  wrong.value = words
  const element = box.value?.element()
  element?.setCustomValidity(words)
  if (words) element?.reportValidity()
}
function left(text: string) {
  const read = readNumber(text)
  say(read.wrong)
  if (read.wrong) return void box.value?.put(text)
  if (read.value !== (props.modelValue ?? null)) emit('update:modelValue', read.value)
}
watch(
  () => props.modelValue,
  () => wrong.value && say(''),
)
/** One step by the mouse: a whole one, or a tenth where it is none. */
function step(by: 1 | -1) {
  const now = props.modelValue ?? 0
  emit('update:modelValue', Number.isInteger(now) ? now + by : +(now + by / 10).toFixed(6))
}
defineExpose({ focus: () => box.value?.focus() })
</script>

<template>
  <TextBox
    ref="box"
    class="number"
    mono
    lazy
    inputmode="decimal"
    autocomplete="off"
    :style="{ width: `${width ?? 110}px` }"
    :model-value="modelValue === null || modelValue === undefined ? '' : String(modelValue)"
    :disabled="disabled"
    :size="size"
    :wrong="wrong"
    @change="left"
    ><template #suffix
      ><span v-if="unit" class="mono dim">{{ unit }}</span
      ><span v-if="!disabled" class="steps" aria-hidden="true"
        ><BareButton tabindex="-1" title="One more" data-step="up" @click="step(1)">▴</BareButton
        ><BareButton tabindex="-1" title="One less" data-step="down" @click="step(-1)">▾</BareButton></span
      ></template
    ></TextBox
  >
</template>

<style scoped>
/* For the mouse alone: keys type. */
.steps {
  display: none;
  line-height: 0.8;
  font-size: 11px;
  margin-left: 3px;
}
.number:hover .steps {
  display: grid;
}
</style>
