<script setup lang="ts">
import { useSessionStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, post, type Schemas } from '../shared/api/http'
import { count } from '../shared/numbers'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import { useJob } from '../shared/useJob'
import ImportColumns from './ImportColumns.vue'
import ImportRows from './ImportRows.vue'

interface Begun {
  name: string
  list: Schemas['UploadedList']
  sheet: number
  mapping: Schemas['ListMapping']
}
const store = useStore()
const router = useRouter()
const attempt = useDo()
/** The import that was begun; it is there again when somebody comes back to it. */
const begun = useSessionStorage<Begun | null>('import', null, { serializer: { read: (t) => JSON.parse(t), write: (v) => JSON.stringify(v) } })
const step = ref('file')
const preview = ref<Schemas['ImportPreview'] | null>(null)
const busy = ref(false)
const current = computed(() => begun.value?.list.sheets[begun.value.sheet])
const fields = computed(() => [{ value: 'none', label: '– not read –' }, ...(begun.value?.list.columns ?? []).map((c) => ({ value: c.key, label: c.label }))])
/** Lists with the same headers come again; what was chosen for them is remembered on this computer. A list without headers cannot be told from another one. */
function memory(sheet: Schemas['UploadedSheet'], mapping: Schemas['ListMapping']) {
  const headers = sheet.first[mapping.headerRow ?? 0] ?? []
  return headers.some(Boolean) ? `mapping:${headers.join('|').toLowerCase()}` : null
}
function propose(list: Schemas['UploadedList'], sheet: number): Schemas['ListMapping'] {
  const { proposed } = list.sheets[sheet]!
  const key = memory(list.sheets[sheet]!, proposed)
  const kept = key && localStorage.getItem(key)
  return kept ? JSON.parse(kept) : proposed
}
async function choose(file: File) {
  begun.value = null
  preview.value = null
  busy.value = true
  const read = await attempt(async () => {
    const list = await post('/lists', { body: file })
    begun.value = { name: file.name, list, sheet: 0, mapping: propose(list, 0) }
  })
  busy.value = false
  if (read) step.value = 'rows'
}
function setSheet(sheet: number) {
  begun.value = { ...begun.value!, sheet, mapping: propose(begun.value!.list, sheet) }
}
function setMapping(patch: Partial<Schemas['ListMapping']>) {
  const mapping = { ...begun.value!.mapping, ...patch }
  const key = memory(current.value!, mapping)
  if (key) localStorage.setItem(key, JSON.stringify(mapping))
  begun.value = { ...begun.value!, mapping }
}
let turn = 0
async function look() {
  const b = begun.value
  if (!b) return
  const mine = ++turn
  busy.value = true
  const answer = await post('/lists/preview', { body: { token: b.list.token, sheet: b.sheet, mapping: b.mapping } as never }).catch((e: Error) => e)
  if (mine !== turn) return
  busy.value = false
  if (!(answer instanceof Error)) return void (preview.value = answer)
  // A list that the server has forgotten is chosen anew.
  begun.value = preview.value = null
  step.value = 'file'
  void attempt(() => Promise.reject(answer))
}
watch(begun, look, { immediate: true })
if (begun.value) step.value = 'rows'
const changes = computed(() => (preview.value?.adds ?? 0) + (preview.value?.changes ?? 0))
/** A large list is taken as a job: with progress, and a stop that leaves everything as it was. */
const LARGE = 1000
async function taken(done: boolean) {
  if (!done) return look()
  begun.value = null
  await router.push('/plan')
}
const { job, start } = useJob((done) => void taken(done))
async function apply(goodRowsOnly: boolean) {
  const { list, sheet, mapping } = begun.value!
  const body = { token: list.token, sheet, mapping, goodRowsOnly, seenRevision: preview.value!.revision } as never
  if (changes.value > LARGE) return void (await start(() => post('/lists/apply/start', { body })))
  await taken(await attempt(() => post('/lists/apply', { body }), 'Imported'))
}
const canApply = computed(() => !busy.value && job.value?.state !== 'running' && !!changes.value)
const steps = computed(() => [
  { key: 'file', title: 'The file', says: begun.value?.name ?? 'CSV or XLSX', ready: true },
  { key: 'columns', title: 'What its columns say', says: begun.value ? 'proposed; look and correct' : '', ready: !!begun.value },
  { key: 'rows', title: 'What would change', says: preview.value ? `${count(changes.value)} rows` : '', ready: !!begun.value },
])
const exports: [string, string, string][] = [
  ['Export CSV', '', 'A list of all points with their places'],
  ['Export XLSX', '&form=xlsx', 'The same as a workbook'],
  ['Export whole', '&whole=true', 'With ids, positions and outlines: read back, a record is found again whatever it is called by then'],
]
</script>

<template>
  <PageShell title="Import a list">
    <template v-if="step !== 'file'" #facts
      ><FilePick label="Choose another file" input-id="file" accept=".csv,.txt,.xlsx" size="small" @choose="choose"
    /></template>
    <template v-if="store.project?.siteId" #actions>
      <LinkButton v-for="[label, form, what] in exports" :key="label" :href="api(`/lists/export?scope=${store.project.siteId}${form}`)" :title="what">{{
        label
      }}</LinkButton>
    </template>
    <StepWizard v-model:step="step" :steps="steps">
      <template #file>
        <FilePick drop label="A list" input-id="file" accept=".csv,.txt,.xlsx" @choose="choose">
          <p><b>Choose or drop a CSV or XLSX file.</b></p>
          <p class="dim">Rooms, equipment or points, up to 10 MB. Nothing is changed before you have seen what would be.</p>
        </FilePick>
        <div class="sheet">
          <h2>What a list may say</h2>
          <p>
            One row a room, a piece of equipment or a point, under headers in any order: building, floor, level, room, area; equipment, kind; point, type, unit,
            range, description. Headers are known by many words, units by many spellings; an empty cell of a place is the one above.
          </p>
          <p class="dim">“Export whole” writes a list in this form, with ids. Change it in a spreadsheet and read it back: each row finds its record again.</p>
        </div>
      </template>
      <template v-if="begun && current" #columns>
        <ImportColumns :list="begun.list" :sheet="begun.sheet" :mapping="begun.mapping" :fields="fields" @sheet="setSheet" @change="setMapping" />
        <p class="acts"><NButton type="primary" @click="step = 'rows'">See what would change</NButton></p>
      </template>
      <template v-if="begun" #rows>
        <p v-for="n in begun.list.notes" :key="n" class="bar medium">{{ n }}</p>
        <ImportRows v-if="preview" :preview="preview" :mapping="begun.mapping" :fields="fields" @words="(words) => setMapping({ words })">
          <NButton v-if="preview.bad" :disabled="!canApply" @click="apply(true)">Apply the good rows</NButton>
          <NButton id="apply" type="primary" :disabled="!canApply || !!preview.bad" @click="apply(false)">Apply all</NButton>
        </ImportRows>
        <NSkeleton v-else text :repeat="6" />
        <JobProgress v-if="job" :job="job" />
      </template>
    </StepWizard>
  </PageShell>
</template>
