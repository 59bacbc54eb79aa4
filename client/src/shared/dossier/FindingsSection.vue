<script setup lang="ts">
import { post } from '../api/http'
import { useStore } from '../store'
import { useDo } from '../useDo'
import type { Dossier } from './sections'

/** What the checks find wrong with this record, and what would mend it. */
defineProps<{ dossier: Dossier }>()
const store = useStore()
const attempt = useDo()
</script>

<template>
  <div v-for="f in dossier.findings" :key="f.key" class="bar" :class="f.severity">
    {{ f.what }} <span class="dim">{{ f.why }}</span>
    <NButton
      v-for="(way, i) in store.may('engineer') ? f.fixes : []"
      :key="way.label"
      size="small"
      @click="attempt(() => post('/findings/fix', { body: { key: f.key, recordId: f.recordId, which: i, label: way.label } }), way.label)"
      >{{ way.label }}</NButton
    >
  </div>
</template>
