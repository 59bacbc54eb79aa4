<script setup lang="ts">
import { computed } from 'vue'
import { useShown } from '../shared/api/cache'
import { siteTime } from '../shared/numbers'
import { useStore } from '../shared/store'

/** What people did to one controller, as far as the newest of the trail tells. */
const props = defineProps<{ controller: string }>()
const store = useStore()
const zone = computed(() => store.project?.timeZone ?? 'UTC')
const { value: trail } = useShown('/trail', () => ({}), ['events', 'jobs'])
const past = computed(() => (trail.value ?? []).filter((t) => t.recordId === props.controller).slice(0, 8))
</script>

<template>
  <div class="sheet">
    <h2>Done there lately</h2>
    <NTable v-if="past.length" size="small" :bordered="false" class="close">
      <tbody>
        <tr v-for="t in past" :key="t.id">
          <td class="mono">{{ siteTime(t.siteAt, zone, true) }}</td>
          <td>{{ t.who }}</td>
          <td>{{ t.what }}</td>
        </tr>
      </tbody>
    </NTable>
    <p v-else-if="trail" class="dim">Nothing that the newest entries tell of.</p>
    <p class="acts"><LinkButton size="small" to="/operate/trail">Who did what</LinkButton></p>
  </div>
</template>
