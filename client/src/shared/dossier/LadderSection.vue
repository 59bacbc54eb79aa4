<script setup lang="ts">
import { computed } from 'vue'
import { useShown } from '../api/cache'
import { siteTime } from '../numbers'
import { useStore } from '../store'
import type { Dossier } from './sections'

/** The claim ladder of an output as it stands on the site. */
const props = defineProps<{ dossier: Dossier }>()
const store = useStore()
const pointId = computed(() => props.dossier.record.id)
const { value: ladder, problem } = useShown(
  '/ladders/{pointId}',
  () => ({ path: { pointId: pointId.value } }),
  ['events', 'sequence', 'schedule', 'point'],
  () => [store.live.get(`p:${pointId.value}`)?.text, store.live.get(`p:${pointId.value}`)?.f, Math.floor((store.clock?.now ?? 0) / 300000)],
)
</script>

<template>
  <p v-if="problem" class="dim">{{ problem }}</p>
  <template v-else-if="ladder">
    <NTable size="small" :bordered="false" class="close">
      <tbody>
        <tr v-for="r in ladder.rungs" :key="r.priority" :class="{ sel: r.wins }">
          <td class="num">{{ r.priority || '–' }}</td>
          <td>
            {{ r.label
            }}<span v-if="r.hold" class="dim"> · {{ r.hold.who }}{{ r.hold.untilMilliseconds ? ` until ${siteTime(r.hold.untilMilliseconds)}` : '' }}</span>
          </td>
          <td class="num">{{ r.says }} {{ r.wins ? '◀' : '' }}</td>
        </tr>
      </tbody>
    </NTable>
    <p class="dim">{{ ladder.ifReleased }}</p>
  </template>
</template>
