<script setup lang="ts">
import { onMounted, onUnmounted, ref } from 'vue'

/** A box over the page: Esc or a click beside it closes, the focus stays inside and goes back where it was. */
defineProps<{ label: string; alert?: boolean; wide?: boolean }>()
const emit = defineEmits<{ close: [] }>()
const box = ref<HTMLElement>()
const before = document.activeElement as HTMLElement | null
onMounted(() => {
  if (!box.value!.contains(document.activeElement)) box.value!.focus()
})
onUnmounted(() => before?.isConnected && document.activeElement === document.body && before.focus())
function tab(e: KeyboardEvent) {
  const stops = [...box.value!.querySelectorAll<HTMLElement>('button, input, select, textarea, a[href]')].filter((x) => !x.hasAttribute('disabled'))
  const edge = e.shiftKey ? stops[0] : stops.at(-1)
  if (!edge || (document.activeElement !== edge && document.activeElement !== box.value)) return
  e.preventDefault()
  ;(e.shiftKey ? stops.at(-1) : stops[0])!.focus()
}
</script>

<template>
  <div class="veil" @mousedown.self="emit('close')">
    <div
      ref="box"
      class="sheet box"
      :class="{ wide }"
      tabindex="-1"
      :role="alert ? 'alertdialog' : 'dialog'"
      aria-modal="true"
      :aria-label="label"
      @keydown.esc.stop="emit('close')"
      @keydown.tab="tab"
    >
      <slot />
    </div>
  </div>
</template>

<style scoped>
.veil {
  position: fixed;
  inset: 0;
  background: #2b252155;
  z-index: 110;
  display: grid;
  place-items: center;
}
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
