<script setup lang="ts">
import { ref, watch } from 'vue'
import { api, post, type Schemas } from '../shared/api/http'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

/** The libraries themselves: made, saved as files, taken in from files, opened and closed for writing. */
type Library = Schemas['LibraryView']
defineProps<{ libraries: readonly Library[] }>()
const emit = defineEmits<{ changed: [] }>()
const store = useStore()
const attempt = useDo()
const sorts: Record<string, string> = { shipped: 'ships with the program', shared: 'shared here', personal: 'your own' }
const newName = ref('')
const shared = ref(true)
async function add() {
  if (await attempt(() => post('/libraries', { body: { name: newName.value, shared: shared.value } }), 'Library made')) newName.value = ''
  emit('changed')
}
async function setReading(l: Library) {
  const isForReading = l.canWrite
  const path = { library: l.id }
  await attempt(() => post('/libraries/{library}/reading', { path, body: { isForReading } }), isForReading ? 'For reading now' : 'Open for writing')
  emit('changed')
}
const file = ref<{ library: string; blob: File; view: Schemas['LibraryFileView'] } | null>(null)
const read = (library: string, blob: File) =>
  attempt(async () => (file.value = { library, blob, view: await post('/libraries/{library}/file', { path: { library }, body: blob }) }))
/** What becomes of each template of a file that clashes with one that is here; left out unless somebody says otherwise. */
const decided = ref<Record<string, string>>({})
watch(file, (f) => (decided.value = Object.fromEntries((f?.view.clashes ?? []).map((c) => [c.templateId, 'leave']))))
const ways = (here: string) => [
  { value: 'leave', label: 'leave it out' },
  ...(here.startsWith('another') ? [] : [{ value: 'next', label: 'take as the next revision' }]),
  { value: 'own', label: 'take as a template of its own' },
]
const chosen = (what: string) => Object.keys(decided.value).filter((id) => decided.value[id] === what).join(',') // prettier-ignore
async function take() {
  const { library, blob: body } = file.value!
  await attempt(
    () => post('/libraries/{library}/file', { path: { library }, query: { take: true, next: chosen('next'), own: chosen('own') }, body }),
    'Taken into the library',
  )
  file.value = null
  emit('changed')
}
</script>

<template>
  <section class="sheet menu" aria-label="Libraries">
    <h3>Libraries</h3>
    <div v-for="l in libraries" :key="l.id" class="one">
      <p>
        <b>{{ l.name }}</b> <span class="dim tiny">{{ sorts[l.sort] }}{{ l.canWrite ? '' : ' · for reading' }}</span>
      </p>
      <p class="acts">
        <LinkButton size="small" :href="api(`/libraries/${l.id}/file`)">Save as file</LinkButton>
        <template v-if="store.may('engineer') && l.sort !== 'shipped'">
          <NButton size="small" :aria-label="`${l.canWrite ? 'Close' : 'Open'} ${l.name} for writing`" @click="setReading(l)">{{
            l.canWrite ? 'Close' : 'Open'
          }}</NButton>
          <FilePick v-if="l.canWrite" size="small" label="Take in a file" @choose="(f) => read(l.id, f)" />
        </template>
      </p>
      <p v-if="!l.templates.length" class="dim tiny">
        Nothing in it yet. Choose equipment, a room or a floor under Section, open its dossier, and take it as a template.
      </p>
    </div>
    <form v-if="store.may('engineer')" class="acts" @submit.prevent="add">
      <TextBox v-model="newName" placeholder="new library" aria-label="Name of a new library" maxlength="60" required style="width: 120px" />
      <NCheckbox v-model:checked="shared">shared</NCheckbox><NButton size="small" attr-type="submit">Make</NButton>
    </form>
    <ModalBox v-if="file" label="A library file" wide @close="file = null">
      <h2>{{ file.view.name }}</h2>
      <p>{{ file.view.new.length }} new, {{ file.view.same.length }} the same, {{ file.view.clashes.length }} clash.</p>
      <p v-for="c in file.view.clashes" :key="c.templateId">
        <b class="wrong">✕ {{ c.name }}</b
        >, revision {{ c.revision }} by {{ c.author }}; here {{ c.here }}
        <PickOne v-model="decided[c.templateId]" :options="ways(c.here)" :aria-label="`What becomes of ${c.name}`" />
      </p>
      <p class="mono tiny">{{ file.view.hash.slice(0, 16) }}…</p>
      <p class="acts"><NButton type="primary" @click="take">Take in</NButton><NButton @click="file = null">Leave</NButton></p>
    </ModalBox>
  </section>
</template>

<style scoped>
.menu,
.one {
  display: grid;
  gap: 6px;
}
.one {
  border-top: 1px solid var(--rule);
  padding-top: 6px;
}
.acts {
  gap: 5px;
}
</style>
