<script setup lang="ts">
import { NAlert, NButton } from 'naive-ui'

/** What stands where something could not be shown: why, in the server's words, and another try. */
defineProps<{ problem: string }>()
const emit = defineEmits<{ again: [] }>()
</script>

<template>
  <NAlert v-if="problem" type="error" :show-icon="false" role="alert">
    ✕ {{ problem }} <NButton size="small" @click="emit('again')">Try again</NButton>
  </NAlert>
</template>
