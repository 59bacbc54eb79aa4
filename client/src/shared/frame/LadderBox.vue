<script setup lang="ts">
import { ref, watch } from 'vue'
import { get, type Schemas } from '../api/http'
import { siteTime, useStore } from '../store'

/** The claim ladder of an output as it stands on the site. */
const props = defineProps<{ pointId: string }>()
const store = useStore()
const ladder = ref<Schemas['LadderView'] | null>(null)
const problem = ref('')
watch(
  () => [
    props.pointId,
    store.live.get(`p:${props.pointId}`)?.text,
    store.live.get(`p:${props.pointId}`)?.f,
    store.eventsTick,
    Math.floor((store.clock?.now ?? 0) / 300000),
  ],
  async () => {
    try {
      ladder.value = await get(`/ladders/${props.pointId}`)
      problem.value = ''
    } catch (e) {
      problem.value = (e as Error).message
    }
  },
  { immediate: true },
)
</script>

<template>
  <div>
    <table v-if="ladder" class="grid ladder">
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
    </table>
    <p v-if="ladder" class="dim">{{ ladder.ifReleased }}</p>
    <p v-else class="dim">{{ problem }}</p>
  </div>
</template>

<style scoped>
.ladder td {
  height: 26px;
  padding: 2px 6px;
}
.ladder td:first-child {
  width: 26px;
}
</style>
