<script setup lang="ts">
import { computed, ref } from 'vue'
import { pageOf } from '../pages'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { change } from '../shared/api/records'
import { count } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Action, Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'

type Finding = Schemas['FindingView']
const store = useStore()
const attempt = useDo()
const marks: Record<Schemas['Severity'], string> = { high: '✕ high', medium: '▲ medium', low: '● low' }
const severity = ref('all')
const words = ref('')
const { value: view, problem, reload } = useShown('/findings', () => ({ query: { show: severity.value, words: words.value } }), 'all')
const shown = computed(() => view.value?.findings ?? [])
const options = computed(() => [
  { value: 'all', label: `All ${count(view.value?.all)}` },
  ...(['high', 'medium', 'low'] as const).map((s) => ({ value: s as string, label: `${marks[s]} ${count(view.value?.[s])}` })),
  { value: 'silenced', label: `Silenced ${count(view.value?.silenced)}` },
])
const reason = ref('')
const may = computed(() => store.may('engineer'))
async function silence(f: Finding) {
  const body = { key: f.key, recordId: f.recordId, reason: reason.value }
  if (await attempt(() => post('/findings/silence', { body }), 'Silenced; it stays listed under Silenced')) reason.value = ''
}
const lift = (f: Finding) => attempt(() => change([{ remove: f.silenceId } as never], `Lifted the silence on “${f.what}”`), 'It speaks again')
const fix = (f: Finding, which: number) =>
  attempt(() => post('/findings/fix', { body: { key: f.key, recordId: f.recordId, which, label: f.fixes[which]?.label } }), f.fixes[which]?.label)
const columns: Column<Finding>[] = [
  { key: 'severity', title: 'Severity', width: 100 },
  { key: 'what', title: 'What' },
  { key: 'path', title: 'Where', width: 260, sort: (f) => f.path },
  { key: 'since', title: 'Since', width: 76, isNumber: true, sort: (f) => f.since },
]
const page = (f: Finding) => pageOf(f.noun, f.recordId)
const actions: Action<Finding>[] = [
  { label: 'Open its dossier', run: ([f]) => (store.selected = f!.recordId) },
  { label: 'Mend it in the first way', run: ([f]) => fix(f!, 0), when: (f) => may.value && f.fixes.length > 0 },
  { label: 'Let it speak again', run: ([f]) => lift(f!), when: (f) => may.value && !!f.silenced },
]
</script>

<template>
  <PageShell :problem="problem" @again="reload">
    <template #facts>
      <ChooseOne v-model="severity" :options="options" label="Which findings" />
      <TextBox v-model="words" lazy style="width: 180px" placeholder="words" aria-label="Find a finding" />
    </template>
    <EmptyState v-if="view && !shown.length" :title="severity === 'all' && !words ? '✓ Nothing to mend' : 'None of these'">
      Checks run with every edit, on what the edit could have touched.
    </EmptyState>
    <p v-if="view && view.matching > shown.length" class="dim">
      The gravest {{ shown.length }} of {{ count(view.matching) }} are shown; words narrow them down.
    </p>
    <RecordTable v-if="shown.length" :rows="shown" :columns="columns" :id="(f) => f.key" noun="finding" plural="findings" :page="page" :actions="actions">
      <template #severity="{ row: f }"
        ><span :class="{ wrong: f.severity === 'high' }">{{ marks[f.severity] }}</span></template
      >
      <template #what="{ row: f }"
        ><b>{{ f.what }}</b></template
      >
      <template #since="{ row: f }">{{ f.isOfSite ? 'on site' : f.since }}</template>
      <template #path="{ row: f }"
        ><span class="dim">{{ f.path }}</span></template
      >
      <template #details="{ row: f }">
        <h2>{{ f.what }}</h2>
        <p class="dim">{{ f.path }}</p>
        <p class="bar" :class="f.severity">{{ f.why }}</p>
        <p v-if="!f.isOfSite" class="dim">Since revision {{ f.since }}{{ f.sinceLabel ? `, “${f.sinceLabel}”` : '' }}</p>
        <p class="acts">
          <LinkButton v-if="page(f)" :to="page(f)!">Show <kbd>↵</kbd></LinkButton
          ><NButton @click="store.selected = f.recordId">Dossier</NButton>
        </p>
        <h3 v-if="f.fixes.length">Mend at one click</h3>
        <div v-for="(way, i) in f.fixes" :key="way.label" class="way">
          <p>{{ way.label }}</p>
          <p v-for="d in way.does" :key="d" class="mono tiny">{{ d }}</p>
          <NButton v-if="may" :type="i === 0 ? 'primary' : 'default'" @click="fix(f, i)">Do it</NButton>
        </div>
        <template v-if="f.silenced">
          <p class="bar">
            “{{ f.silenced }}” <span class="dim">says {{ f.silencedBy }}</span>
          </p>
          <NButton v-if="may" @click="lift(f)">Let it speak again</NButton>
        </template>
        <LinkButton v-else-if="f.isOfSite" to="/operate/held">What is held and simulated</LinkButton>
        <form v-else-if="may" class="silence" @submit.prevent="silence(f)">
          <h3>Silence it</h3>
          <TextBox v-model="reason" placeholder="why it may stand" aria-label="Why it may stand" maxlength="400" required />
          <NButton attr-type="submit">Silence</NButton>
        </form>
      </template>
    </RecordTable>
  </PageShell>
</template>

<style scoped>
.silence {
  display: grid;
  gap: 6px;
  border-top: 1px solid var(--rule);
  padding-top: 8px;
  justify-items: start;
}
</style>
