<script setup lang="ts">
import { computed } from 'vue'
import { useShown } from '../shared/api/cache'
import { change, put, type Schedule } from '../shared/api/records'
import { many } from '../shared/numbers'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import ScheduleDays from './ScheduleDays.vue'
import ScheduleDrives from './ScheduleDrives.vue'
import ScheduleExceptions from './ScheduleExceptions.vue'
import ScheduleWeek from './ScheduleWeek.vue'

const props = defineProps<{ schedule: string }>()
const store = useStore()
const attempt = useDo()
const minute = computed(() => Math.floor((store.clock?.now ?? 0) / 60000))
const {
  value: view,
  problem,
  reload,
} = useShown(
  '/schedules/{id}',
  () => ({ path: { id: props.schedule } }),
  ['schedule', 'point', 'equipment', 'place', 'sequence'],
  () => minute.value,
)
const s = computed(() => view.value?.schedule ?? null)
const may = computed(() => store.may('engineer'))
const say = (v: number) =>
  (s.value?.stateTexts?.length ? s.value.stateTexts[s.value.kind === 'binary' ? v : v - 1] : `${v} ${s.value?.unit ?? ''}`) ?? String(v)
/** What holds outside all hours. */
const otherwise = computed(() => (s.value?.default == null ? 'released' : say(s.value.default)))
const states = computed(() =>
  (s.value?.stateTexts ?? []).map((label, i) => ({ label, value: s.value!.kind === 'binary' ? i : i + 1 })).filter((x) => x.value !== s.value!.default),
)
const save = (patch: Partial<Schedule>, label: string) => attempt(() => change([put('schedule', { ...s.value!, ...patch }, view.value!.revision)], label))
</script>

<template>
  <PageShell :title="s?.name ?? 'Schedule'" :problem="problem" @again="reload">
    <template v-if="view && s" #facts>
      <FactTag>{{ s.stateTexts?.join(' · ') }}</FactTag><FactTag tone="plum">now {{ view.now }}</FactTag
      ><FactTag>drives {{ many(view.drives.length, 'output') }}</FactTag
      ><FactTag>{{ view.zone }}</FactTag>
    </template>
    <div v-if="view && s" class="cols">
      <div class="left">
        <ScheduleWeek :schedule="s" :zone="view.zone" :may="may" :say="say" :otherwise="otherwise" :states="states" :save="save" />
        <div class="two">
          <ScheduleDays :id="props.schedule" :otherwise="otherwise" :day="Math.floor(minute / 1440)" />
          <ScheduleExceptions :schedule="s" :may="may" :say="say" :otherwise="otherwise" :states="states" :save="save" />
        </div>
      </div>
      <div class="right">
        <div class="sheet">
          <h2>Who decides now</h2>
          <p v-for="(r, i) in view.today" :key="i" class="rule" :class="{ on: r.decides }">
            <span>{{ r.rule }}</span><span>{{ r.says }}</span>
          </p>
        </div>
        <ScheduleDrives :schedule="s" :drives="view.drives" :may="may" :save="save" />
      </div>
    </div>
  </PageShell>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 310px;
  gap: 12px;
  align-items: start;
}
.left,
.right {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.rule {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  padding: 3px 6px;
}
.rule.on {
  background: var(--plum-soft);
  border-radius: 6px;
  font-weight: 600;
}
@media (max-width: 900px) {
  .cols,
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
