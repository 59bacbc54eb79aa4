<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../shared/api/http'

/** The value of a parameter by its sort; what a text means, the server says. */
const props = defineProps<{ parameter: Schemas['ParameterView']; disabled?: boolean }>()
const emit = defineEmits<{ set: [text: string] }>()
const options = computed(() => (props.parameter.choices ?? []).map((c) => ({ value: c.key, label: c.label })))
const label = computed(() => (props.parameter.channel ? `${props.parameter.label} of ${props.parameter.channelTitle}` : props.parameter.label))
</script>

<template>
  <PickOne
    v-if="parameter.sort === 'choice'"
    :model-value="parameter.value"
    :options="options"
    :disabled="disabled"
    :aria-label="label"
    @update:model-value="(v: string) => emit('set', v)"
  />
  <NSwitch
    v-else-if="parameter.sort === 'yesNo'"
    :value="parameter.value === 'yes'"
    :disabled="disabled"
    :aria-label="label"
    style="justify-self: start"
    @update:value="(v: boolean) => emit('set', v ? 'yes' : 'no')"
  />
  <TextBox
    v-else
    lazy
    :mono="parameter.sort !== 'text'"
    :model-value="parameter.sort === 'time' ? parameter.said : parameter.value"
    :disabled="disabled"
    :aria-label="label"
    @update:model-value="(v: string) => v !== parameter.value && v !== parameter.said && emit('set', v)"
    ><template v-if="parameter.unit" #suffix
      ><span class="mono dim">{{ parameter.unit }}</span></template
    ></TextBox
  >
</template>
