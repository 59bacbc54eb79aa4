<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useShown } from '../shared/api/cache'
import { get, type Schemas } from '../shared/api/http'
import { useLive } from '../shared/store'
import CheckCard from './CheckCard.vue'
import { useOutbox } from './useOutbox'

/** The points of one panel, proved one after the other at the panel, with one hand. */
type Line = Schemas['CheckLine']
const props = defineProps<{ controller: string }>()
const outbox = useOutbox()
const path = computed(() => ({ controller: props.controller }))
const { value: sheet, problem, reload } = useShown('/checks/{controller}', () => ({ path: path.value }), ['fitting', 'controller', 'module', 'point'])
const readings = ref(new Map<string, Schemas['TerminalReading']>())
const read = async () => {
  const list = await get('/controllers/{id}/terminals', { path: { id: props.controller } }).catch(() => null)
  if (list) readings.value = new Map(list.map((r) => [r.terminal, r]))
}
void read()
useIntervalFn(read, 1500)
const chosen = ref<string | null>(null)
const onlyOpen = ref(false)
const lines = computed(() => (sheet.value?.lines ?? []).filter((l) => !onlyOpen.value || isOpen(l) || l.pointId === chosen.value))
const line = computed(() => lines.value.find((l) => l.pointId === chosen.value) ?? null)
const isOpen = (l: Line) => !l.last || l.isStale
const state = (l: Line) => (isOpen(l) ? 'open' : l.last!.passed ? 'passed' : 'failed')
const marks = { open: '○', passed: '✓', failed: '✕' }
watch(
  sheet,
  (s) => {
    if (s && !s.lines.some((l) => l.pointId === chosen.value)) chosen.value = (s.lines.find(isOpen) ?? s.lines[0])?.pointId ?? null
  },
  { immediate: true },
)
useLive(() => (line.value ? [`p:${line.value.pointId}`, ...line.value.feedback.map((f) => `p:${f.pointId}`)] : []))
/** The next one that is still to be checked, after this one, round the end. */
function next() {
  const all = sheet.value?.lines ?? []
  const at = all.findIndex((l) => l.pointId === chosen.value)
  chosen.value = ([...all.slice(at + 1), ...all.slice(0, at)].find(isOpen) ?? all[at + 1] ?? all[at])?.pointId ?? null
}
async function kept() {
  await reload()
}
</script>

<template>
  <PageShell :title="sheet ? `Check ${sheet.controller.name}` : 'Check'" :problem="problem" @again="reload">
    <template v-if="sheet" #facts>
      <FactTag tone="moss">✓ {{ sheet.progress.passed }} of {{ sheet.progress.total }}</FactTag>
      <FactTag v-if="sheet.progress.failed" tone="crimson">✕ {{ sheet.progress.failed }} failed</FactTag>
      <FactTag v-if="outbox.waiting.value" tone="amber">◇ {{ outbox.waiting.value }} kept here until the server answers</FactTag>
    </template>
    <template #actions><LinkButton to="/commission/check">All panels</LinkButton></template>
    <p v-if="outbox.refused.value" class="bar crimson">✕ A check that waited was refused: {{ outbox.refused.value.why }}</p>
    <EmptyState v-if="sheet && !sheet.lines.length" title="Nothing on its terminals yet">
      Put points onto the terminals of this panel first.
      <template #next><LinkButton :to="`/wire/${controller}`" main>The panel</LinkButton></template>
    </EmptyState>
    <div v-else-if="sheet" class="cols">
      <CheckCard v-if="line" :key="line.pointId" :line="line" :reading="readings.get(line.terminal)" :send="outbox.send" @kept="kept" @next="next" />
      <div class="sheet list">
        <NCheckbox v-model:checked="onlyOpen">only what is still to be checked</NCheckbox>
        <BareButton
          v-for="l in lines"
          :key="l.pointId"
          :class="['line', state(l), { on: l.pointId === chosen }]"
          :data-check="l.terminal"
          @click="chosen = l.pointId"
          ><span class="mark" role="img" :aria-label="state(l)">{{ marks[state(l)] }}</span
          ><b class="mono">{{ l.terminal }}</b
          ><span class="what"
            >{{ l.point }} <span class="dim">{{ l.path.split(' › ').at(-1) }}</span></span
          ></BareButton
        >
      </div>
    </div>
  </PageShell>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 380px;
  gap: 12px;
  align-items: start;
}
.list {
  display: grid;
  gap: 2px;
  max-height: calc(100vh - 220px);
  overflow: auto;
  grid-auto-rows: max-content;
}
.line {
  display: grid;
  grid-template-columns: 20px 62px 1fr;
  gap: 6px;
  padding: 7px 6px;
  text-align: left;
  border-radius: 6px;
  align-items: baseline;
}
.line.on {
  background: var(--plum-soft);
}
.passed .mark {
  color: var(--moss);
}
.failed .mark {
  color: var(--crimson);
}
.what {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
@media (max-width: 700px) {
  .cols {
    grid-template-columns: minmax(0, 1fr);
  }
  .list {
    max-height: none;
  }
  .line {
    padding: 12px 6px;
  }
}
</style>
