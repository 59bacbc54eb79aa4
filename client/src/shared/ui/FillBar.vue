<script setup lang="ts">
/** How much of something is used, as a bar with its words. */
defineProps<{ used: number; of: number; tone?: string }>()
</script>

<template>
  <span class="fill"
    ><span class="rail"><i :style="{ width: `${of ? (100 * used) / of : 0}%`, background: `var(--${tone ?? 'plum'})` }" /></span
    ><span class="mono">{{ used }} of {{ of }}</span></span
  >
</template>

<style scoped>
.fill {
  display: inline-flex;
  gap: 8px;
  align-items: center;
  white-space: nowrap;
}
.rail {
  width: 60px;
  height: 7px;
  border-radius: 4px;
  background: var(--sunk);
  overflow: hidden;
}
i {
  display: block;
  height: 100%;
}
</style>
