<script setup lang="ts">
import { computed } from 'vue'
import { useShown } from '../api/cache'
import { useStore } from '../store'
import type { Dossier } from './sections'

/** What an output does when something befalls it, tried beside what runs; and its least times on and off, which hold whoever commands it. */
const props = defineProps<{ dossier: Dossier }>()
const store = useStore()
const id = computed(() => props.dossier.record.id)
const { value: trials, problem } = useShown('/outputs/{id}/trials', () => ({ path: { id: id.value } }), ['sequence', 'schedule', 'point', 'controller'])
const least = computed(() => props.dossier.fields.filter((f) => f.field.isSpan))
</script>

<template>
  <RecordForm v-if="least.length" :id="id" :fields="least" :revision="dossier.revision" :disabled="!store.may('engineer')" />
  <p v-if="problem" class="dim">{{ problem }}</p>
  <NTable v-else-if="trials" size="small" :bordered="false" class="close">
    <thead>
      <tr>
        <th>When</th>
        <th>it</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="t in trials" :key="t.when">
        <td>{{ t.when }}</td>
        <td>{{ t.says }}</td>
      </tr>
    </tbody>
  </NTable>
  <NSkeleton v-else text :repeat="3" />
  <p class="dim tiny">Tried from where it stands now, for 15 min each, beside what runs.</p>
</template>
