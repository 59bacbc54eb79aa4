<script setup lang="ts">
import { NModal } from 'naive-ui'
import { nextTick, type VNode } from 'vue'

/** A box over the page: Esc or a click beside it closes it, the focus stays inside and goes back where it was. It begins at the first field, or where there is none, or it asks whether something is to be done, at the main action, so that Enter does it. */
const props = defineProps<{ label: string; alert?: boolean; wide?: boolean }>()
const emit = defineEmits<{ close: [] }>()
const begin = (node: VNode) =>
  void nextTick(() =>
    (node.el as HTMLElement)
      .querySelector<HTMLElement>(`${props.alert ? '' : 'input:enabled, textarea:enabled, [role=combobox], '}.n-button--primary-type:enabled`)
      ?.focus(),
  )
</script>

<template>
  <NModal show :auto-focus="true" transform-origin="center" @update:show="(s: boolean) => s || emit('close')" @esc="emit('close')">
    <div class="sheet box" :class="{ wide }" :role="alert ? 'alertdialog' : 'dialog'" aria-modal="true" :aria-label="label" @vue:mounted="begin">
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
