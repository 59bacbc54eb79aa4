<script setup lang="ts">
import type { Dossier } from './sections'

/** The fields of a record that no other page edits. */
defineProps<{ dossier: Dossier }>()
</script>

<template>
  <RecordForm :id="dossier.record.id" :fields="dossier.fields" :revision="dossier.revision" class="narrow" />
</template>

<style scoped>
.narrow :deep(label.row) {
  grid-template-columns: 84px minmax(0, 1fr);
}
</style>
