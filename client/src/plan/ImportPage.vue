<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, post, send, type Schemas } from '../shared/api/http'
import { useStore } from '../shared/store'
import JobBar from '../shared/JobBar.vue'
import { useDo } from '../shared/useDo'
import { count } from '../shared/numbers'
import { useJob } from '../shared/useJob'
import PlanTabs from './PlanTabs.vue'

type Field = string
const store = useStore()
const router = useRouter()
const attempt = useDo()
const list = ref<Schemas['UploadedList'] | null>(null)
const fileName = ref('')
const sheet = ref(0)
const mapping = ref<Schemas['ListMapping'] | null>(null)
const preview = ref<Schemas['ImportPreview'] | null>(null)
const busy = ref(false)
const shownVerdict = ref<Schemas['RowVerdict'] | 'all'>('all')
const wordField = ref<Field>('unit')
const theirWord = ref('')
const ourWord = ref('')
/** What a column can say; the first says that it is not read. */
const fields = computed<[Field, string][]>(() => [['none', '– not read –'], ...(list.value?.columns ?? []).map((c): [Field, string] => [c.key, c.label])])
const current = computed(() => list.value?.sheets[sheet.value])
const headers = computed(() => (mapping.value && current.value ? (current.value.first[Number(mapping.value.headerRow)] ?? []) : []))
/** Lists with the same headers come again; what was chosen for them is remembered on this computer. */
const memory = () => `mapping:${headers.value.join('|').toLowerCase()}`
/** A list without headers cannot be told from another one, so nothing is remembered for it. */
const remember = () => headers.value.some(Boolean) && localStorage.setItem(memory(), JSON.stringify(mapping.value))

async function choose(file: File | undefined) {
  if (!file) return
  busy.value = true
  fileName.value = file.name
  list.value = null
  preview.value = null
  await attempt(async () => (list.value = await send<Schemas['UploadedList']>('/lists', file)))
  busy.value = false
  sheet.value = 0
  propose()
}
function propose() {
  mapping.value = current.value ? structuredClone(JSON.parse(JSON.stringify(current.value.proposed))) : null
  const kept = mapping.value && headers.value.some(Boolean) && localStorage.getItem(memory())
  if (kept) mapping.value = JSON.parse(kept)
}
watch(sheet, propose)
let turn = 0
watch(
  mapping,
  async (m) => {
    if (!m || !list.value) return
    const mine = ++turn
    busy.value = true
    let answer: Schemas['ImportPreview'] | null = null
    await attempt(async () => (answer = await post<Schemas['ImportPreview']>('/lists/preview', { token: list.value!.token, sheet: sheet.value, mapping: m })))
    if (mine === turn) {
      preview.value = answer
      busy.value = false
    }
  },
  { deep: true },
)
function setColumn(i: number, field: Field) {
  const columns = [...mapping.value!.columns]
  columns[i] = field
  mapping.value = { ...mapping.value!, columns }
  remember()
}
function addWord() {
  if (!theirWord.value.trim() || !ourWord.value.trim()) return
  const words = { ...mapping.value!.words }
  words[wordField.value] = { ...words[wordField.value], [theirWord.value.trim()]: ourWord.value.trim() }
  mapping.value = { ...mapping.value!, words }
  remember()
  theirWord.value = ourWord.value = ''
}
/** A large list is taken as a job: with progress, and a stop that leaves everything as it was. */
const LARGE = 1000
const { job, start } = useJob((done) => (done ? void router.push('/plan') : (mapping.value = { ...mapping.value! })))
async function apply(goodRowsOnly: boolean) {
  const request = { token: list.value!.token, sheet: sheet.value, mapping: mapping.value, goodRowsOnly, seenRevision: preview.value!.revision }
  if (countOf('adds') + countOf('changes') > LARGE) return void (await start('/lists/apply/start', request))
  if (await attempt(() => post('/lists/apply', request), 'Imported')) await router.push('/plan')
  else mapping.value = { ...mapping.value! }
}
const lines = computed(() => (preview.value?.lines ?? []).filter((l) => shownVerdict.value === 'all' || l.verdict === shownVerdict.value))
const verdicts: [Schemas['RowVerdict'], string][] = [
  ['adds', '+ adds'],
  ['changes', '~ changes'],
  ['same', '= as it is'],
  ['bad', '✕ bad'],
]
const countOf = (v: Schemas['RowVerdict']) => Number(preview.value?.[v] ?? 0)
const wordFor = Object.fromEntries(verdicts)
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Import a list</h1>
      <span v-if="list" class="pill mono">{{ fileName }}</span>
      <span class="space" />
      <a v-if="store.project?.siteId" class="btn" :href="api(`/lists/export?scope=${store.project.siteId}`)" download>Export CSV</a>
      <a v-if="store.project?.siteId" class="btn" :href="api(`/lists/export?scope=${store.project.siteId}&form=xlsx`)" download>Export XLSX</a>
      <a
        v-if="store.project?.siteId"
        class="btn"
        :href="api(`/lists/export?scope=${store.project.siteId}&whole=true`)"
        title="With ids, positions and outlines: read back, a record is found again whatever it is called by then"
        download
        >Export whole</a
      >
      <PlanTabs />
    </div>
    <label class="sheet drop" :class="{ small: list }" @dragover.prevent @drop.prevent="choose($event.dataTransfer?.files[0])">
      <input
        id="file"
        class="hidden"
        type="file"
        accept=".csv,.txt,.xlsx"
        @click="($event.target as HTMLInputElement).value = ''"
        @change="choose(($event.target as HTMLInputElement).files?.[0])"
      />
      <span v-if="!list"
        ><b>Choose or drop a CSV or XLSX file.</b>
        <span class="dim">Rooms, equipment or points, up to 10 MB. Nothing is changed before you have seen what would be.</span></span
      >
      <span v-else class="dim">Choose another file</span>
    </label>
    <p v-for="n in list?.notes ?? []" :key="n" class="bar medium">{{ n }}</p>
    <template v-if="list && current && mapping">
      <div class="sheet mapping">
        <div class="head">
          <label v-if="list.sheets.length > 1" class="pill"
            >Sheet
            <select v-model="sheet" aria-label="Sheet">
              <option v-for="(s, i) in list.sheets" :key="i" :value="i">{{ s.name }} · {{ s.rows }} rows</option>
            </select></label
          >
          <label class="pill"
            >Headers in row
            <input
              type="number"
              min="0"
              :max="current.first.length"
              style="width: 52px"
              :value="Number(mapping.headerRow) + 1"
              aria-label="Header row"
              @change="mapping = { ...mapping!, headerRow: Number(($event.target as HTMLInputElement).value) - 1 }"
          /></label>
          <label class="pill"
            ><input
              type="checkbox"
              :checked="mapping.blankIsAbove"
              @change="mapping = { ...mapping!, blankIsAbove: ($event.target as HTMLInputElement).checked }"
            />
            an empty place is the one above</label
          >
          <label class="pill"
            >Building of rows that name none
            <input
              style="width: 120px"
              :value="mapping.building ?? ''"
              aria-label="Building of rows that name none"
              @change="mapping = { ...mapping!, building: ($event.target as HTMLInputElement).value.trim() || null }"
          /></label>
        </div>
        <div class="scroll">
          <table class="grid">
            <thead>
              <tr>
                <th v-for="(_, i) in mapping.columns" :key="i">
                  <select
                    class="field"
                    :value="mapping.columns[i]"
                    :aria-label="`Column ${i + 1} says`"
                    @change="setColumn(i, ($event.target as HTMLSelectElement).value as Field)"
                  >
                    <option
                      v-for="[f, label] in fields"
                      :key="f"
                      :value="f"
                      :disabled="f !== 'none' && f !== mapping.columns[i] && mapping.columns.includes(f)"
                    >
                      {{ label }}
                    </option>
                  </select>
                </th>
              </tr>
            </thead>
            <tbody>
              <tr
                v-for="(row, r) in current.first.slice(Math.max(0, Number(mapping.headerRow)), Number(mapping.headerRow) + 5)"
                :key="r"
                :class="{ headers: r === 0 && Number(mapping.headerRow) >= 0 }"
              >
                <td v-for="(_, c) in mapping.columns" :key="c" :class="{ dim: mapping.columns[c] === 'none' }">{{ row[c] }}</td>
              </tr>
            </tbody>
          </table>
        </div>
      </div>
      <div v-if="preview" class="head">
        <span class="tabs"
          ><button :class="{ on: shownVerdict === 'all' }" @click="shownVerdict = 'all'">All rows</button
          ><button v-for="[v, label] in verdicts" :key="v" :class="{ on: shownVerdict === v }" :data-verdict="v" @click="shownVerdict = v">
            {{ label }} {{ count(countOf(v)) }}
          </button></span
        >
        <span class="dim">{{ preview.records.join(' · ') || 'nothing would change' }}</span>
        <span class="space" />
        <button v-if="preview.bad" class="btn" :disabled="busy || job?.state === 'running' || !(countOf('adds') + countOf('changes'))" @click="apply(true)">
          Apply the good rows
        </button>
        <button
          id="apply"
          class="btn main"
          :disabled="busy || job?.state === 'running' || !!preview.bad || !(countOf('adds') + countOf('changes'))"
          @click="apply(false)"
        >
          Apply all
        </button>
      </div>
      <JobBar v-if="job" :job="job" />
      <div v-if="preview?.badCellCount" class="sheet">
        <h2>{{ preview.badCellCount }} cells cannot be taken</h2>
        <p v-for="(b, i) in preview.badCells.slice(0, 12)" :key="i" class="bar high">
          <span class="mono">{{ b.sheet }} {{ b.column }}{{ b.row }}</span> {{ b.sentence }}
        </p>
        <form class="head" @submit.prevent="addWord">
          <span class="dim">In this list, for</span>
          <select v-model="wordField" class="field" aria-label="Words of">
            <option v-for="[f, label] in fields.slice(1)" :key="f" :value="f">{{ label }}</option>
          </select>
          <input v-model="theirWord" class="field" placeholder="the list’s word" aria-label="The list’s word" /><span class="dim">stands for</span
          ><input v-model="ourWord" class="field" placeholder="ours" aria-label="Our word" /><button class="btn small">Use it</button>
        </form>
      </div>
      <table v-if="preview" class="grid sheet lines">
        <thead>
          <tr>
            <th class="num">Row</th>
            <th>Comes to</th>
            <th>Exactly</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="l in lines.slice(0, 300)" :key="l.row">
            <td class="num">{{ l.row }}</td>
            <td style="white-space: nowrap" :class="{ wrong: l.verdict === 'bad' }">{{ wordFor[l.verdict] }}</td>
            <td>{{ l.words }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="preview && countOf('adds') + countOf('changes') + countOf('same') + countOf('bad') > preview.lines.length" class="dim">
        At most 300 rows of each sort are listed; the counts above are of all.
      </p>
    </template>
  </div>
</template>

<style scoped>
.drop {
  display: grid;
  gap: 8px;
  border-style: dashed;
  padding: 30px;
  text-align: center;
  justify-items: center;
  cursor: pointer;
}
.drop:focus-within {
  border-color: var(--plum);
}
.hidden {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}
.drop.small {
  padding: 6px 12px;
  display: flex;
  justify-content: flex-start;
}
.mapping {
  display: grid;
  gap: 10px;
}
.scroll {
  overflow-x: auto;
}
.scroll td {
  white-space: nowrap;
  max-width: 220px;
  overflow: hidden;
  text-overflow: ellipsis;
  height: 26px;
}
.headers td {
  font-weight: 700;
}
.pill input,
.pill select {
  border: 1px solid var(--rule);
  border-radius: 5px;
  background: var(--sheet);
}
</style>
