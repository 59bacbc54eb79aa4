<script setup lang="ts">
import type { Schemas } from '../api/http'
import { about } from './about'

/**
 * The value of a field of a kind of record, as text: one of its choices, a record it leads to, a number or a stretch of time with its
 * unit, or words. What a text means, the server says; what the field is and what it takes stands in its description.
 */
defineProps<{ field: Schemas['FieldView']; modelValue: string; label: string; disabled?: boolean }>()
const emit = defineEmits<{ 'update:modelValue': [text: string] }>()
</script>

<template>
  <PickOne
    v-if="field.choices.length"
    :model-value="modelValue"
    :options="field.choices"
    :disabled="disabled"
    :aria-label="label"
    :title="about(field)"
    @update:model-value="(v: string) => emit('update:modelValue', v)"
  />
  <RecordPicker
    v-else-if="field.leadsTo"
    :nouns="field.leadsTo"
    reverts
    :says="modelValue"
    :disabled="disabled"
    :placeholder="`words of a ${field.leadsTo}`"
    :aria-label="label"
    :title="about(field)"
    @choose="(hit) => emit('update:modelValue', hit?.id ?? '')"
  />
  <TextBox
    v-else
    :mono="field.isNumber"
    lazy
    :inputmode="field.isNumber ? 'decimal' : undefined"
    :model-value="modelValue"
    :placeholder="field.hint ?? ''"
    :disabled="disabled"
    :aria-label="label"
    :title="about(field)"
    @update:model-value="(v: string) => v !== modelValue && emit('update:modelValue', v)"
    ><template v-if="field.unit" #suffix
      ><span class="mono dim">{{ field.unit }}</span></template
    ></TextBox
  >
</template>
