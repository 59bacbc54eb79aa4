<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '../shared/api/http'
import type { Schedule } from '../shared/api/records'
import { count } from '../shared/numbers'
import { useStore } from '../shared/store'

/** The outputs that a schedule drives, each at its priority, and whether it is in charge there now. */
const props = defineProps<{
  schedule: Schedule
  drives: readonly Schemas['DriveView'][]
  may: boolean
  save: (patch: Partial<Schedule>, label: string) => Promise<boolean>
}>()
const store = useStore()
const priority = ref<number | null>(16)
const MOST = 200
const add = (hit: Schemas['Hit'] | null) =>
  hit &&
  props.save(
    { drives: [...(props.schedule.drives ?? []), { pointId: hit.id, priority: priority.value ?? 0 }] },
    `‘${props.schedule.name}’ drives ‘${hit.name}’ at ${priority.value}`,
  )
const remove = (d: Schemas['DriveView']) =>
  props.save(
    { drives: props.schedule.drives!.filter((x) => x.pointId !== d.pointId || x.priority !== d.priority) },
    `‘${props.schedule.name}’ no longer drives ‘${d.name}’`,
  )
</script>

<template>
  <div class="sheet">
    <h2>Drives</h2>
    <p v-for="d in drives.slice(0, MOST)" :key="`${d.pointId}@${d.priority}`" class="drive">
      <NButton text type="info" class="name" :title="d.path" @click="store.selected = d.pointId"
        ><b>{{ d.name }}</b></NButton
      ><span class="mono dim">@{{ d.priority }}</span
      ><FactTag :tone="d.inCharge ? 'moss' : null">{{ d.inCharge ? '✓ ' : '' }}{{ d.state }}</FactTag
      ><NButton v-if="may" size="small" quaternary :aria-label="`Stop driving ${d.name}`" @click="remove(d)">✕</NButton>
    </p>
    <p v-if="drives.length > MOST" class="dim">and {{ count(drives.length - MOST) }} more</p>
    <p v-if="!drives.length" class="dim">Nothing yet.</p>
    <p v-if="may" class="acts">
      <RecordPicker id="drive-words" for-many nouns="point" placeholder="words of an output" aria-label="Output to drive" style="width: 190px" @choose="add" />
      <span class="mono">@</span><NumberBox v-model="priority" :width="52" aria-label="Priority" />
    </p>
  </div>
</template>

<style scoped>
.drive {
  display: flex;
  gap: 6px;
  padding: 3px 0;
  align-items: center;
}
.name {
  flex: 1;
  justify-content: flex-start;
  text-align: left;
  white-space: normal;
}
.acts {
  margin-top: 8px;
  flex-wrap: nowrap;
}
</style>
