<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { useStore } from '../shared/store'
import type { Action, Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'
import NamingRules from './NamingRules.vue'
import { useNamesDraft } from './useNamesDraft'
import WordsPane from './WordsPane.vue'

type Departure = Schemas['DepartureView']
const store = useStore()
const attempt = useDo()
const { value: names, problem, reload } = useShown('/names', () => ({}), 'all')
const may = computed(() => store.may('engineer'))
const { draft, shown, wrongLine, trial, edit, begin, save } = useNamesDraft(names)
const preview = ref<{ title: string; changes: Schemas['TextChange'][]; go: () => Promise<unknown>; done: string } | null>(null)
const showFix = (ids: string[]) =>
  attempt(async () => {
    const body = { ids }
    const changes = await post('/names/fix/preview', { body })
    preview.value = { title: 'Names by the convention', changes, go: () => post('/names/fix', { body }), done: `Renamed ${changes.length}` }
  })
const showCorrection = (word: string, to: string) =>
  attempt(async () => {
    const body = { word, to }
    const changes = await post('/names/words/preview', { body })
    preview.value = { title: `‘${to}’ for ‘${word}’`, changes, go: () => post('/names/words/correct', { body }), done: `Wrote ‘${to}’ in ${changes.length}` }
  })
async function apply() {
  const p = preview.value!
  if (await attempt(p.go, p.done)) preview.value = null
}
const columns: Column<Departure>[] = [
  { key: 'name', title: 'Departs', sort: (d) => d.name },
  { key: 'proposed', title: 'Would be' },
  { key: 'why', title: 'Why' },
]
const actions: Action<Departure>[] = [
  { label: 'Rename…', run: (rows) => showFix(rows.map((d) => d.id)), many: true, when: (d) => may.value && !!d.proposed },
  { label: 'Open its dossier', run: ([d]) => (store.selected = d!.id) },
]
const options = computed(() => [
  { value: 'rules', label: 'Rules' },
  { value: 'departures', label: `Depart ${names.value?.departureCount ?? 0}` },
  { value: 'words', label: `Words ${names.value?.words.length ?? 0}` },
])
const view = ref('rules')
</script>

<template>
  <PageShell lede="checked with every edit" :problem="problem" @again="reload">
    <template #facts><ChooseOne v-model="view" :options="options" label="What of the names" /></template>
    <template #actions>
      <template v-if="draft">
        <NButton @click="draft = null">Leave as it was</NButton>
        <NButton id="save-names" type="primary" :disabled="!!trial?.refusals.length || !!wrongLine" @click="save">Save the convention</NButton>
      </template>
      <NButton v-else-if="may && names && !names.revision" id="begin" @click="begin">Begin with common rules</NButton>
      <NButton v-if="may && names?.departureCount && !draft" id="fix-all" type="primary" @click="showFix([])">Rename all {{ names.departureCount }}…</NButton>
    </template>
    <template v-if="names">
      <NamingRules v-if="view === 'rules'" :names="names" :draft="shown" :trial="trial" :wrong-line="wrongLine" :may="may" @edit="edit" />
      <template v-else-if="view === 'departures'">
        <EmptyState v-if="!names.departureCount" title="✓ Every name may be what it is">
          {{ names.convention.rules?.length ? 'All of them follow the convention.' : 'No rule is saved yet. A rule says what names of one kind look like.' }}
        </EmptyState>
        <RecordTable
          v-else
          :rows="names.departures"
          :columns="columns"
          :id="(d) => d.id"
          noun="name"
          plural="names"
          :words="(d) => `${d.name} ${d.path}`"
          :actions="actions"
        >
          <template #name="{ row: d }"
            ><b>{{ d.name }}</b
            ><br /><span class="dim tiny">{{ d.path }}</span></template
          >
          <template #proposed="{ row: d }"
            ><span class="mono">→ {{ d.proposed ?? 'no name fits' }}</span></template
          >
          <template #why="{ row: d }"
            ><span class="dim">{{ d.why }}</span></template
          >
        </RecordTable>
        <p v-if="names.departureCount > names.departures.length" class="dim">The first {{ names.departures.length }} are shown; “Rename all” takes them all.</p>
        <section v-if="names.network.length" class="sheet">
          <h2>{{ names.network.length }} network names cannot stand</h2>
          <p v-for="f in names.network" :key="f.key">
            <NButton text type="info" @click="store.selected = f.recordId">{{ f.name }}</NButton> <span class="dim">{{ f.path }}</span><br />{{ f.why }}
          </p>
        </section>
      </template>
      <WordsPane v-else :names="names" :may="may" :checks="shown.spelling" @correct="showCorrection" />
    </template>
    <ChangePreview
      v-if="preview"
      :title="preview.title"
      :lines="preview.changes.map((c) => ({ what: c.noun, before: c.before, after: c.after, where: c.path }))"
      :total="preview.changes.length"
      :make="`Change ${preview.changes.length}, as one step to undo`"
      nothing="Nothing would change: no name that fits is free."
      @make="apply"
      @close="preview = null"
    />
  </PageShell>
</template>
