<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, get, post, send, type Schemas } from '../shared/api/http'
import { useLoaded, useStore } from '../shared/store'
import { count } from '../shared/numbers'
import { useDo } from '../shared/useDo'
import PlanTabs from './PlanTabs.vue'

const store = useStore()
const attempt = useDo()
const lines = ref<Schemas['HistoryLine'][]>([])
const snapshots = ref<Schemas['Snapshot'][]>([])
const more = ref(true)
const from = ref<number | null>(null)
const to = ref<number | null>(null)
/** Whether what is compared is to be restored: shown first, then done. */
const restoring = ref(false)
/** Another project that this one is laid beside, in place of a revision of its own. */
const other = ref('')
const { value: projects } = useLoaded<Schemas['ProjectLine'][]>(() => get('/projects'), undefined, [])
const others = computed(() => (projects.value ?? []).filter((p) => !p.isThis && !p.isArchived))
const otherName = computed(() => others.value.find((p) => p.id === other.value)?.name)
const difference = ref<Schemas['DifferenceView'] | null>(null)
const backups = ref<Schemas['BackupList'] | null>(null)
const allBackups = ref(false)
const words = ref('')
const naming = ref('')
const file = ref<{ blob: File; view: Schemas['ProjectFileView'] } | null>(null)
async function load(below?: number) {
  const page = await get<Schemas['HistoryLine'][]>(`/history${below ? `?below=${below}` : ''}`)
  lines.value = below ? [...lines.value, ...page] : page
  more.value = page.length === 100
  snapshots.value = await get<Schemas['Snapshot'][]>('/snapshots')
  backups.value = await get<Schemas['BackupList']>('/backups')
}
const backUp = () => attempt(async () => (backups.value = await post<Schemas['BackupList']>('/backups')), 'Backed up and checked')
const restoreBackup = (b: Schemas['BackupLine']) =>
  attempt(() => post(`/backups/${b.number}/restore`), `Restored revision ${b.revision} from its backup; undo brings back what was`)
watch(
  () => store.lastChange?.revision,
  () => void load(),
  { immediate: true },
)
const question = computed(() => (other.value ? `/projects/${other.value}/differences` : '/differences'))
const range = computed(() => (other.value ? '' : `?from=${from.value}${to.value === null ? '' : `&to=${to.value}`}`))
watch([from, to, other, () => store.lastChange?.revision], async () => {
  difference.value = from.value === null && !other.value ? null : await get<Schemas['DifferenceView']>(question.value + range.value)
})
watch(other, (o) => o && (from.value = to.value = null))
watch(from, (a) => a !== null && (other.value = ''))
const shown = computed(() =>
  (difference.value?.records ?? []).filter((d) =>
    words.value
      .toLowerCase()
      .split(/\s+/)
      .every((w) => `${d.kind} ${d.noun} ${d.name} ${d.path} ${d.fields.map((f) => f.words).join(' ')}`.toLowerCase().includes(w)),
  ),
)
const when = (at: number) => new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'short' }).format(at)
const sign: Record<string, string> = { added: '+ added', changed: '~ changed', removed: '− removed' }
const printIt = () => print()
async function snapshot() {
  if (await attempt(() => post('/snapshots', { name: naming.value }), 'Snapshot named')) naming.value = ''
  await load()
}
async function restore() {
  if (await attempt(() => post(`/restore/${from.value}`), `Restored revision ${from.value}; nothing after it is lost, it can be undone`)) from.value = null
  restoring.value = false
}
async function read(blob: File | undefined) {
  if (blob) await attempt(async () => (file.value = { blob, view: await send<Schemas['ProjectFileView']>('/project/file', blob) }))
}
async function take() {
  if (await attempt(() => send('/project/file?take=true', file.value!.blob), 'Taken as one change; undo brings back what was')) file.value = null
}
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Project history</h1>
      <span class="space" />
      <a class="btn" :href="api('/project/file')" download>Save the project as a file</a>
      <label v-if="store.may('engineer')" class="btn"
        >Read a project file<input type="file" class="hidden" @change="read(($event.target as HTMLInputElement).files?.[0])"
      /></label>
      <PlanTabs />
    </div>
    <div v-if="file" class="sheet" role="dialog" aria-label="The project file">
      <h2>{{ file.view.name || 'A project without a name' }}, revision {{ file.view.revision }}</h2>
      <p>
        {{ count(file.view.records) }} records. Taking it adds {{ count(file.view.added) }}, changes {{ count(file.view.changed) }} and removes
        {{ count(file.view.removed) }} here.
      </p>
      <p v-for="p in file.view.problems" :key="p" class="bar high">✕ {{ p }}</p>
      <p v-for="p in file.view.leftOut.slice(0, 20)" :key="p" class="bar medium">▲ would be left out: {{ p }}</p>
      <p class="acts">
        <button class="btn main" @click="take">{{ file.view.problems.length ? 'Take what can be saved' : 'Take it' }}</button><button
          class="btn"
          @click="file = null"
        >
          Leave
        </button>
      </p>
    </div>
    <div class="two">
      <div>
        <h2>Edits <span class="dim small">newest first; any can be taken back if nothing later rests on it</span></h2>
        <table class="grid sheet">
          <thead>
            <tr>
              <th class="num">Revision</th>
              <th>What</th>
              <th>Who</th>
              <th>When</th>
              <th></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="l in lines" :key="l.revision" :class="{ sel: Number(l.revision) === from }">
              <td class="num">{{ l.revision }}</td>
              <td>{{ l.label }}</td>
              <td>{{ l.author }}</td>
              <td class="dim" style="white-space: nowrap">{{ when(Number(l.at)) }}</td>
              <td style="white-space: nowrap">
                <button class="btn small" @click="((from = Number(l.revision) - 1), (to = Number(l.revision)), (restoring = false))">See</button>
                <button v-if="store.may('engineer')" class="btn small" @click="attempt(() => post(`/history/${l.revision}/undo`), `Taken back: ${l.label}`)">
                  Take back
                </button>
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="more && lines.length"><button class="btn" @click="load(Number(lines.at(-1)!.revision))">Earlier</button></p>
      </div>
      <aside>
        <h2>Snapshots</h2>
        <div class="sheet">
          <form v-if="store.may('engineer')" class="acts" @submit.prevent="snapshot">
            <input
              id="snapshot"
              v-model="naming"
              class="field"
              placeholder="name the present state"
              aria-label="Name of a snapshot"
              maxlength="120"
              required
            /><button class="btn small">Name it</button>
          </form>
          <p v-for="s in snapshots.slice(0, 12)" :key="s.id" class="snap">
            <span
              ><b>{{ s.name }}</b
              ><br /><span class="dim small"
                >revision {{ s.revision }} · {{ s.automatic ? 'by itself' : s.author }} · {{ when(Number(s.atMilliseconds)) }}</span
              ></span
            >
            <span class="acts"
              ><button class="btn small" @click="((from = Number(s.revision)), (to = null))">Compare</button
              ><button v-if="store.may('engineer')" class="btn small" @click="((from = Number(s.revision)), (to = null), (restoring = true))">
                Restore…
              </button></span
            >
          </p>
          <p v-if="others.length" class="snap">
            <label
              >Compare with
              <select id="other-project" v-model="other" class="field">
                <option value="">another project…</option>
                <option v-for="p in others" :key="p.id" :value="p.id">{{ p.name }}</option>
              </select></label
            >
          </p>
          <p v-if="!snapshots.length" class="dim">None yet. One is made by itself before large edits and at the start of each day.</p>
        </div>
        <h2>Backups <span class="dim small">each checked when made</span></h2>
        <div v-if="backups" class="sheet" aria-label="Backups">
          <p v-if="backups.problem" class="bar high">▲ {{ backups.problem }}</p>
          <p class="dim small">
            Every {{ backups.everyMinutes }} min while something is written, and before risky edits; the newest {{ backups.kept }} stay. If the database itself
            is damaged, start the server with <kbd>--restore</kbd>.
          </p>
          <p v-for="b in backups.backups.slice(0, allBackups ? undefined : 5)" :key="b.number" class="snap">
            <span
              ><b>Revision {{ b.revision }}</b
              ><br /><span class="dim small">{{ when(Number(b.at)) }} · {{ count(Math.ceil(Number(b.bytes) / 1024)) }} kB</span></span
            >
            <button v-if="store.may('engineer')" class="btn small" @click="restoreBackup(b)">Restore</button>
          </p>
          <p class="acts">
            <button v-if="store.may('engineer')" class="btn small" @click="backUp">Back up now</button>
            <button v-if="!allBackups && backups.backups.length > 5" class="btn small" @click="allBackups = true">All {{ backups.backups.length }}</button>
          </p>
        </div>
        <template v-if="difference">
          <h2>
            {{ other ? `${otherName}, revision ${difference.from}, against this project` : `Revision ${difference.from} against ${to ?? 'now'}` }}
            <button class="btn small" aria-label="Close the differences" @click="((from = null), (other = ''))">✕</button>
          </h2>
          <div class="sheet printed" aria-label="Differences">
            <p>
              {{ count(difference.added) }} added, {{ count(difference.changed) }} changed, {{ count(difference.removed) }} removed
              <a class="btn small" :href="api(`${question}/list${range}`)" download>CSV</a>
              <button class="btn small" @click="printIt">Print</button>
            </p>
            <input v-model="words" class="field" placeholder="words of a record, a place or a field" aria-label="Filter the differences" style="width: 100%" />
            <div v-for="d in shown.slice(0, 200)" :key="d.id" class="bar" :class="{ crimson: d.kind === 'removed', decides: d.kind === 'added' }">
              {{ sign[d.kind] }} {{ d.noun }} <b>{{ d.name }}</b> <span class="dim small">{{ d.path }}</span>
              <p v-for="f in d.fields" :key="f.words" class="mono small">{{ f.words }}: {{ f.before ?? 'none' }} → {{ f.after ?? 'none' }}</p>
            </div>
            <p v-if="!difference.records.length" class="dim">They are the same.</p>
            <p v-else-if="restoring && to === null" class="acts">
              <button id="restore-do" class="btn main" @click="restore">Take all of this back</button
              ><span class="dim small">one change, which can be undone</span>
            </p>
          </div>
        </template>
      </aside>
    </div>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 400px;
  gap: 14px;
  align-items: start;
}
aside {
  display: grid;
  gap: 8px;
}
.snap {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  align-items: center;
  border-top: 1px solid var(--rule);
  padding: 5px 0;
}
.acts {
  display: flex;
  gap: 6px;
  align-items: center;
}
.small {
  font-size: 12.5px;
}
.hidden {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}
@media (max-width: 700px) {
  .two {
    grid-template-columns: 1fr;
  }
}
@media print {
  .two {
    display: block;
  }
  .two > div:first-child,
  aside > h2:first-child,
  aside > .sheet:not(.printed) {
    display: none;
  }
}
</style>
