<script setup lang="ts">
import { computed } from 'vue'
import { useShown } from '../shared/api/cache'

/** What sending one controller would change there, record by record. */
const props = defineProps<{ controller: string; short?: boolean }>()
const { value: review, problem } = useShown('/commission/{id}', () => ({ path: { id: props.controller } }), 'all')
const signs = { added: '+ new', changed: '~ changed', removed: '− goes' }
const FEW = 30
const shown = computed(() => review.value?.differences.slice(0, props.short ? FEW : 2000) ?? [])
</script>

<template>
  <p v-if="problem" class="wrong">{{ problem }}</p>
  <template v-else-if="review">
    <p v-if="!review.differences.length" class="dim">✓ Nothing: {{ review.name }} runs the design.</p>
    <NTable v-else size="small" :bordered="false" class="close">
      <tbody>
        <tr v-for="d in shown" :key="d.id + d.noun">
          <td class="sign" :class="{ wrong: d.kind === 'removed' }">{{ signs[d.kind] }}</td>
          <td class="dim">{{ d.noun }}</td>
          <td>
            <b>{{ d.name }}</b>
            <p v-for="f in d.fields" :key="f.words" class="mono tiny diff">
              {{ f.words }}: <span class="old">{{ f.before ?? 'none' }}</span> → {{ f.after ?? 'none' }}
            </p>
          </td>
        </tr>
      </tbody>
    </NTable>
    <p v-if="review.differences.length > shown.length" class="dim">and {{ review.differences.length - shown.length }} more</p>
  </template>
  <NSkeleton v-else text :repeat="3" />
</template>

<style scoped>
.sign {
  white-space: nowrap;
}
.diff {
  overflow-wrap: anywhere;
}
.old {
  text-decoration: line-through;
  color: var(--ink-2);
}
</style>
