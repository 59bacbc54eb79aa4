<script setup lang="ts">
import { computed } from 'vue'
import { useShown } from '../shared/api/cache'
import { squareOf } from './squareCode'

/** What is printed on a device of the virtual site: to be scanned by a phone, copied or typed, as from a real one. */
const props = defineProps<{ device: string; name: string }>()
const emit = defineEmits<{ close: [] }>()
const { value: sticker, problem } = useShown('/bus/work/{id}/sticker', () => ({ path: { id: props.device } }), ['busDevice'])
const square = computed(() => sticker.value && squareOf(sticker.value.code))
</script>

<template>
  <ModalBox :label="`Sticker of ${name}`" @close="emit('close')">
    <h2>Sticker of {{ name }}</h2>
    <p v-if="problem" class="wrong">{{ problem }}</p>
    <template v-if="sticker && square">
      <svg :viewBox="`-4 -4 ${square.side + 8} ${square.side + 8}`" role="img" aria-label="Square code of the sticker">
        <rect x="-4" y="-4" :width="square.side + 8" :height="square.side + 8" fill="#fff" />
        <path :d="square.path" fill="#000" shape-rendering="crispEdges" />
      </svg>
      <p>
        label <b class="mono">{{ sticker.label }}</b>
      </p>
      <p v-if="sticker.certificate">
        certificate<br /><b class="mono">{{ sticker.certificate }}</b>
      </p>
      <p class="dim">A real device has this printed on it. Whoever reads the certificate can put the device to work: take the sticker off and keep it.</p>
    </template>
    <p class="acts"><NButton @click="emit('close')">Leave</NButton></p>
  </ModalBox>
</template>

<style scoped>
svg {
  width: 220px;
  height: 220px;
}
</style>
