<script setup lang="ts">
import { computed } from 'vue'
import { useShown } from '../api/cache'

/** All tags of a record with their values and what gave each; those with a value first. What else is to be done with one stands behind it. */
const props = defineProps<{ id: string }>()
const { value: tags } = useShown('/tags/of/{id}', () => ({ path: { id: props.id } }), ['taggingRule', 'place', 'equipment', 'point'])
const ordered = computed(() => [...(tags.value ?? [])].sort((a, b) => Number(a.value === 'M') - Number(b.value === 'M')))
</script>

<template>
  <NTable size="small" :bordered="false" class="close">
    <tbody>
      <tr v-for="t in ordered" :key="t.name">
        <td class="mono">{{ t.name }}</td>
        <td class="mono">{{ t.value === 'M' ? '' : t.value }}</td>
        <td class="dim">{{ t.why }} <slot :tag="t" /></td>
      </tr>
    </tbody>
  </NTable>
</template>
