<script setup lang="ts">
import { useShown } from '../api/cache'
import { useLive, useStore } from '../store'
import type { Dossier } from './sections'

/** The points of a place or equipment, with their present values. */
const props = defineProps<{ dossier: Dossier }>()
const store = useStore()
const { value: page } = useShown('/grid/{key}', () => ({ path: { key: 'point' }, query: { scope: props.dossier.record.id, count: 60 } }), [
  'point',
  'place',
  'equipment',
  'fitting',
])
useLive(() => (page.value?.rows ?? []).map((r) => `p:${r.id}`))
</script>

<template>
  <NTable v-if="page?.rows.length" size="small" :bordered="false" class="close">
    <tbody>
      <tr v-for="r in page.rows" :key="r.id">
        <td>
          <NButton text type="info" @click="store.selected = r.id">
            <span v-if="r.ownerId !== dossier.record.id" class="dim">{{ r.owner }} ·&nbsp;</span>{{ r.name }}
          </NButton>
        </td>
        <td class="num"><LiveValue :id="`p:${r.id}`" /></td>
      </tr>
    </tbody>
  </NTable>
  <p v-else-if="page" class="dim">No points yet.</p>
  <p v-if="page && page.total > page.rows.length" class="dim">The first {{ page.rows.length }} of {{ page.total }}.</p>
  <LinkButton v-if="dossier.trends.length" size="small" :to="`/supervise/trends?show=${dossier.trends.join(',')}`">Trends</LinkButton>
</template>
