<script setup lang="ts">
/** What stands where nothing is yet: what belongs here, and the next step to take. */
defineProps<{ title: string }>()
</script>

<template>
  <div class="sheet empty">
    <h2>{{ title }}</h2>
    <p><slot /></p>
    <p v-if="$slots.next" class="next"><slot name="next" /></p>
  </div>
</template>

<style scoped>
.next {
  margin-top: 12px;
}
</style>
