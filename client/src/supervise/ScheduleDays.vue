<script setup lang="ts">
import { ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { useStore } from '../shared/store'

/** What a schedule will do, day by day, with the moments in UTC and the changes of the clocks. */
const props = defineProps<{ id: string; otherwise: string; day: number }>()
const store = useStore()
const from = ref('')
const { value: days, problem } = useShown(
  '/schedules/{id}/days',
  () => ({ path: { id: props.id }, query: { days: 60, from: from.value || undefined } }),
  (change) => change.ids.includes(props.id) || change.ids.includes(store.project?.siteId ?? ''),
  () => props.day,
)
</script>

<template>
  <div class="sheet">
    <div class="head">
      <h2>What it will do</h2>
      <span class="space" /><DateBox v-model="from" aria-label="From date" placeholder="from today" clearable />
    </div>
    <p v-if="problem" class="wrong">{{ problem }}</p>
    <div class="daylist" tabindex="0" role="group" aria-label="Days to come">
      <p v-for="d in days ?? []" :key="d.date" :class="{ ex: d.isException }">
        <span class="mono">{{ d.weekday }} {{ d.date.slice(5) }}</span
        ><span
          ><b v-if="d.isException">{{ d.because }} · </b
          ><template v-for="(x, i) in d.stretches" :key="i"
            >{{ i ? ', ' : '' }}{{ x.says }} <span class="mono">{{ x.from }}–{{ x.to }}</span>
            <small class="dim mono">({{ x.fromUtc }}–{{ x.toUtc }})</small></template
          ><span v-if="!d.stretches.length" class="dim">{{ otherwise }} all day</span>
          <FactTag v-if="d.clockChange" tone="amber">{{ d.clockChange }}</FactTag></span
        >
      </p>
    </div>
  </div>
</template>

<style scoped>
.daylist {
  max-height: 300px;
  overflow: auto;
  margin-top: 6px;
}
.daylist p {
  display: grid;
  grid-template-columns: 82px 1fr;
  gap: 6px;
  padding: 2px 0;
}
.daylist small {
  margin-left: 5px;
}
.daylist .ex b {
  color: var(--russet);
}
</style>
