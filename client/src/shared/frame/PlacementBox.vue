<script setup lang="ts">
import { ref } from 'vue'
import { get, post, type Schemas } from '../api/http'
import { useLoaded, useStore } from '../store'
import { useDo } from '../useDo'
import { useJob } from '../useJob'
import JobBar from '../JobBar.vue'

/** Equipment against the template it was placed from; or taking a record as a template. */
const props = defineProps<{ id: string; placed: boolean; name: string; controller?: boolean }>()
const store = useStore()
const attempt = useDo()
const giveUp = ref(new Set<string>())
const { value: view } = useLoaded<Schemas['PlacementView']>(() => (props.placed ? get(`/placements/${props.id}`) : null), undefined, 'all')
const { value: libraries } = useLoaded<Schemas['LibraryView'][]>(() => (store.may('engineer') ? get('/libraries') : null), undefined, [])
const taking = ref(false)
const library = ref('')
const called = ref(props.name)
const left = ref<string[]>([])
const copying = ref(false)
const times = ref(1)
const pattern = ref(`${props.name} {n}`)
const copies = ref<Schemas['CopyView'] | null>(null)
const copyRequest = () => ({ recordId: props.id, times: times.value, namePattern: pattern.value })
const look = () => attempt(async () => (copies.value = await post<Schemas['CopyView']>('/copies/preview', copyRequest())))
/** Many copies are made as a job: with progress, and a stop that leaves everything as it was. */
const LARGE = 20
function copied(done: boolean) {
  if (!done) return
  copying.value = false
  copies.value = null
}
const { job, start } = useJob(copied)
async function copy() {
  if (times.value > LARGE) return void (await start('/copies/start', copyRequest()))
  copied(await attempt(() => post('/copies', copyRequest()), `Copied ${times.value} ×`))
}
const key = (d: Schemas['PlacementDifference']) => `${d.recordId}/${d.field}`
function toggle(d: Schemas['PlacementDifference']) {
  if (!giveUp.value.delete(key(d))) giveUp.value.add(key(d))
  giveUp.value = new Set(giveUp.value)
}
const update = () => attempt(() => post(`/placements/${props.id}/update`, { giveUp: [...giveUp.value] }), 'Brought up to date')
async function take() {
  const done = await attempt(
    async () =>
      (left.value = (await post<Schemas['CaptureAnswer']>('/templates/capture', { recordId: props.id, libraryId: library.value, name: called.value })).left),
    'Taken as a template; find it in the library',
  )
  if (done && !left.value.length) taking.value = false
}
</script>

<template>
  <template v-if="view">
    <h3>From a template</h3>
    <p>
      {{ view.templateName }}, revision {{ view.revision }}
      <span v-if="view.newest > view.revision" class="pill amber">revision {{ view.newest }} is there</span>
      <span v-else-if="view.canCompare && !view.differences.length" class="pill moss">✓ as the template</span>
    </p>
    <p v-for="d in view.differences" :key="key(d)" class="bar" :class="d.isLocal ? 'decides' : 'medium'">
      {{ d.name }}, {{ d.words }}: {{ d.here ?? 'none' }}<span class="dim"> here, template {{ d.template ?? 'none' }}</span>
      <label v-if="d.isLocal && store.may('engineer')"
        ><input type="checkbox" :checked="giveUp.has(key(d))" @change="toggle(d)" /> give up what was changed here</label
      >
    </p>
    <p v-if="store.may('engineer')" class="acts">
      <button v-if="view.differences.length && view.canCompare" class="btn small main" @click="update">Bring to revision {{ view.newest }}</button>
      <button class="btn small" @click="attempt(() => post(`/placements/${id}/detach`), 'Detached from its template')">Detach</button>
    </p>
  </template>
  <template v-if="store.may('engineer')">
    <p class="acts">
      <button class="btn small" data-act="take" :aria-expanded="taking" @click="((taking = !taking), (library = libraries?.find((l) => l.canWrite)?.id ?? ''))">
        Take as a template…
      </button>
      <button v-if="!controller" class="btn small" data-act="copy" :aria-expanded="copying" @click="copying = !copying">Copy…</button>
    </p>
    <form v-if="copying" class="take" @submit.prevent="copies && !copies.refusals.length ? copy() : look()">
      <input
        v-model.number="times"
        class="field mono"
        type="number"
        min="1"
        max="500"
        style="width: 62px"
        aria-label="How many copies"
        @input="copies = null"
      />
      <span>×</span>
      <input v-model="pattern" class="field" aria-label="Names of the copies" title="{name}, {n}, {nn}" required @input="copies = null" />
      <template v-if="copies">
        <p v-for="r in copies.refusals" :key="r" class="bar high">✕ {{ r }}</p>
        <p v-if="!copies.refusals.length">
          <b>{{ copies.names.slice(0, 4).join(', ') }}{{ copies.names.length > 4 ? ' …' : '' }}</b
          >: {{ copies.records.join(', ') }}
        </p>
        <p v-for="(n, i) in copies.notes.slice(0, 30)" :key="i" class="bar" :class="{ medium: n.startsWith('open') }">{{ n }}</p>
      </template>
      <JobBar v-if="job" :job="job" />
      <button v-if="job?.state !== 'running'" class="btn small main">{{ copies && !copies.refusals.length ? 'Copy' : 'See what would be made' }}</button>
    </form>
    <form v-if="taking" class="take" @submit.prevent="take">
      <p v-if="!libraries?.some((l) => l.canWrite)" class="dim">Make a library of your own first, under <RouterLink to="/library">Library</RouterLink>.</p>
      <template v-else>
        <input v-model="called" class="field" aria-label="Name of the template" required />
        <select v-model="library" class="field" aria-label="Library">
          <option v-for="l in libraries.filter((x) => x.canWrite)" :key="l.id" :value="l.id">{{ l.name }}</option>
        </select>
        <button class="btn small main">Take it</button>
      </template>
      <p v-for="l in left" :key="l" class="bar medium">{{ l }}</p>
    </form>
  </template>
</template>

<style scoped>
.acts,
.take {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
}
</style>
