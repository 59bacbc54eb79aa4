<script setup lang="ts">
import { NModal } from 'naive-ui'

/** A box over the page: Esc or a click beside it closes it, the focus stays inside and goes back where it was. */
defineProps<{ label: string; alert?: boolean; wide?: boolean }>()
const emit = defineEmits<{ close: [] }>()
</script>

<template>
  <NModal show :auto-focus="true" transform-origin="center" @update:show="(s: boolean) => s || emit('close')" @esc="emit('close')">
    <div class="sheet box" :class="{ wide }" :role="alert ? 'alertdialog' : 'dialog'" aria-modal="true" :aria-label="label">
      <slot />
    </div>
  </NModal>
</template>

<style scoped>
.box {
  width: min(460px, 94vw);
  max-height: 84vh;
  overflow: auto;
  display: grid;
  gap: 8px;
}
.box.wide {
  width: min(700px, 94vw);
}
</style>
