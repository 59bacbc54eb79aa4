<script setup lang="ts">
/** A button that looks like the thing it stands for: a terminal on a rail, a node of a diagram. */
</script>

<template>
  <button type="button"><slot /></button>
</template>

<style scoped>
button {
  border: 0;
  background: none;
  padding: 0;
  font: inherit;
  color: inherit;
  cursor: pointer;
}
</style>
