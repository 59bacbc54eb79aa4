<script setup lang="ts">
import { useRouter } from 'vue-router'
import { pageOf } from '../../pages'
import { useStore } from '../store'
import type { Dossier } from './sections'

/** The records that use this one, and as what. */
defineProps<{ dossier: Dossier }>()
const store = useStore()
const router = useRouter()
function open(noun: string, id: string) {
  const page = pageOf(noun, id)
  if (page) void router.push(page)
  else store.selected = id
}
</script>

<template>
  <p class="acts">
    <NButton v-for="u in dossier.usedBy" :key="u.id" size="small" round :title="`${u.path} · ${u.as}`" @click="open(u.noun, u.id)"
      >{{ u.noun }}: {{ u.name }}</NButton
    >
    <span v-if="!dossier.usedBy.length" class="dim">Nothing uses it yet.</span>
  </p>
</template>
