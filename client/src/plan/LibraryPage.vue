<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, get, post, send, type Schemas } from '../shared/api/http'
import type { Place } from '../shared/api/records'
import { useLoaded, useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import { matching } from '../shared/words'
import { useJob } from '../shared/useJob'
import FindRecord from '../shared/FindRecord.vue'
import JobBar from '../shared/JobBar.vue'
import { useRouter } from 'vue-router'
import PlanTabs from './PlanTabs.vue'

const props = defineProps<{ library?: string; template?: string }>()
const store = useStore()
const router = useRouter()
const attempt = useDo()
const { value: libraries, reload } = useLoaded<Schemas['LibraryView'][]>(() => get('/libraries'), undefined, [])
const { value: view, reload: reloadView } = useLoaded<Schemas['TemplateView']>(
  () => (props.template ? get(`/libraries/${props.library}/templates/${props.template}`) : null),
  () => props.template,
  [],
)
const { value: names } = useLoaded<Schemas['NamesView']>(() => get('/names'), undefined, ['namingConvention'])
/** The convention's pattern for equipment, where it has one that a placing can fill in. */
const conventional = computed(() => names.value?.convention.rules?.find((r) => r.for === 'equipment' && !r.pattern.includes('{equipment}'))?.pattern)
const shelfWords = ref('')
const shown = computed(() =>
  (libraries.value ?? []).map((l) => ({
    ...l,
    templates: l.templates.filter((t) =>
      shelfWords.value
        .toLowerCase()
        .split(/\s+/)
        .every((w) => `${t.name} ${t.folder}`.toLowerCase().includes(w)),
    ),
  })),
)
const points = computed(() => (view.value?.template.records ?? []).filter((r) => (r as { type: string }).type === 'point') as unknown as Schemas['Point'][])
/** What the sequences of the template must do, clause by clause. */
const clauses = computed(() =>
  (view.value?.template.records ?? [])
    .filter((r) => (r as { type: string }).type === 'sequence')
    .flatMap((r) => ((r as unknown as Schemas['Sequence']).clauses ?? []).map((c) => c.text)),
)
const others = computed(() => (view.value?.template.records ?? []).filter((r) => !['point', 'equipment'].includes((r as { type: string }).type)))

const { value: sections } = useLoaded<Schemas['Section'][]>(
  async () => Promise.all((await get<Place[]>('/buildings')).map((b) => get<Schemas['Section']>(`/buildings/${b.id}/section`))),
  undefined,
  ['place', 'equipment'],
)
const roomWords = ref('')
/** What the template is of, and so what it is put into: equipment into rooms, a room onto floors, a floor into buildings. */
const root = computed(() => (view.value?.template.records[0] ?? null) as unknown as { type: string; kind?: string } | null)
const into = computed(() => (root.value?.type !== 'place' ? 'room' : root.value.kind === 'room' ? 'floor' : root.value.kind === 'floor' ? 'building' : 'site'))
const intoPlural = computed(() => ({ room: 'Rooms', floor: 'Floors', building: 'Buildings', site: 'Site' })[into.value])
const rooms = computed(() => {
  const all = sections.value ?? []
  if (into.value === 'site')
    return store.project?.siteId ? [{ id: store.project.siteId as string, name: store.project.siteName ?? '', path: '', equipment: 0 }] : []
  if (into.value === 'building') return all.map((s) => ({ id: s.building.id, name: s.building.name, path: '', equipment: 0 }))
  if (into.value === 'floor') return all.flatMap((s) => s.floors.map((f) => ({ id: f.floor.id, name: f.floor.name, path: s.building.name, equipment: 0 })))
  return all.flatMap((s) =>
    s.floors.flatMap((f) =>
      f.rooms.map((r) => ({ id: r.room.id, name: r.room.name, path: `${s.building.name} › ${f.floor.name}`, equipment: r.equipment.length })),
    ),
  )
})
const roomsShown = computed(() => matching(rooms.value, (r) => `${r.path} ${r.name}`, roomWords.value))
/** Where each reference that leads outward goes: a record, its namesake nearest each place, or left open on purpose; nothing is decided in silence. */
const outward = ref<Record<string, { id: string | null; name: string; nearest?: boolean }>>({})
const picked = ref(new Set<string>())
const each = ref(1)
const pattern = ref('')
const values = ref<Record<string, string>>({})
const rowValues = ref<Record<number, Record<string, string>>>({})
const preview = ref<Schemas['PlaceView'] | null>(null)
watch(
  [view, conventional] as const,
  ([v]) => {
    pattern.value = v
      ? root.value?.type === 'equipment' && conventional.value
        ? conventional.value
        : v.template.name.split(',')[0]!.length < 24
          ? v.template.name.split(',')[0]!
          : 'Equipment'
      : ''
    values.value = Object.fromEntries((v?.template.parameters ?? []).map((p) => [p.name, p.default]))
    rowValues.value = {}
    preview.value = null
  },
  { immediate: true },
)
watch(into, () => (picked.value = new Set()))
watch([picked, each, pattern, outward], () => ((rowValues.value = {}), (preview.value = null)))
function toggle(id: string) {
  if (!picked.value.delete(id)) picked.value.add(id)
  picked.value = new Set(picked.value)
}
const all = () => (picked.value = new Set([...picked.value, ...roomsShown.value.map((r) => r.id)]))
const request = computed(() => ({
  libraryId: props.library,
  templateId: props.template,
  placing: {
    places: rooms.value.filter((r) => picked.value.has(r.id)).map((r) => r.id),
    each: each.value,
    namePattern: pattern.value,
    values: values.value,
    rowValues: rowValues.value,
    externals: Object.fromEntries(Object.entries(outward.value).flatMap(([x, to]) => (to.id ? [[x, to.id]] : []))),
    namesakes: Object.entries(outward.value).flatMap(([x, to]) => (to.nearest ? [x] : [])),
  },
}))
const look = () => attempt(async () => (preview.value = await post<Schemas['PlaceView']>('/templates/place/preview', request.value)))
/** Many placements are made as a job: with progress, and a stop that leaves everything as it was. */
const LARGE = 200
function placed(done: boolean) {
  if (!done) return
  picked.value = new Set()
  preview.value = null
}
const { job, start } = useJob(placed)
async function place() {
  if (Number(preview.value?.placements) > LARGE) return void (await start('/templates/place/start', request.value))
  placed(await attempt(() => post('/templates/place', request.value), `Placed ${preview.value?.placements} × ${view.value?.template.name}`))
}
function setRow(i: number, name: string, value: string) {
  rowValues.value = { ...rowValues.value, [i]: { ...rowValues.value[i], [name]: value } }
  void look()
}
/** Numbers of the template that are not parameters yet. */
const fixed = computed(() =>
  (view.value?.variables ?? []).filter((v) => !view.value!.template.bindings?.some((b) => b.record === v.record && b.path === v.path)),
)
async function vary(v: Schemas['Variable']) {
  const t = view.value!.template
  let n = (t.parameters?.length ?? 0) + 1
  while (t.parameters?.some((p) => p.name === `p${n}`)) n++
  const name = `p${n}`
  const parameter = { name, label: v.words.split(' › ').slice(-2).join(' '), kind: v.kind, default: v.value, unit: v.unit }
  const template = {
    ...t,
    comment: `${parameter.label} varies`,
    parameters: [...(t.parameters ?? []), parameter],
    bindings: [...(t.bindings ?? []), { record: v.record, path: v.path, parameter: name }],
  }
  await attempt(
    () => post(`/libraries/${props.library}/templates`, { template, from: t.revision }),
    `Revision ${Number(t.revision) + 1}: ${parameter.label} is a parameter now`,
  )
  await Promise.all([reloadView(), reload()])
}
/** The parameters as they are being changed: label, unit, default, limits, choices. */
type Parameter = Schemas['TemplateParameter']
const parameters = ref<Parameter[] | null>(null)
watch(view, () => (parameters.value = null))
const editParameters = () => (parameters.value = JSON.parse(JSON.stringify(view.value!.template.parameters ?? [])) as Parameter[])
const limit = (text: string) => (text.trim() === '' ? null : Number(text.replace('−', '-').replace(',', '.')))
async function saveParameters() {
  const t = view.value!.template
  const kept = new Set(parameters.value!.map((p) => p.name))
  const template = {
    ...t,
    comment: 'Parameters changed',
    parameters: parameters.value!.map((p) => ({
      ...p,
      choices: p.kind === 'choice' ? p.choices : null,
      low: p.kind === 'number' ? p.low : null,
      high: p.kind === 'number' ? p.high : null,
    })),
    bindings: (t.bindings ?? []).filter((b) => kept.has(b.parameter)),
  }
  await attempt(() => post(`/libraries/${props.library}/templates`, { template, from: t.revision }), `Revision ${Number(t.revision) + 1}`)
  await Promise.all([reloadView(), reload()])
}
const varyWords = ref('')
/** A library that is for reading says so before anybody tries, and offers ways on. */
const here = computed(() => libraries.value?.find((l) => l.id === props.library))
const writable = computed(() => (libraries.value ?? []).filter((l) => l.canWrite && l.id !== props.library))
const copyTo = ref('')
watch(writable, (w) => (copyTo.value ||= w[0]?.id ?? ''))
async function setReading(library: string, isForReading: boolean) {
  await attempt(() => post(`/libraries/${library}/reading`, { isForReading }), isForReading ? 'For reading now' : 'Open for writing')
  await Promise.all([reload(), reloadView()])
}
async function copyTemplate() {
  await attempt(async () => {
    const made = await post<Schemas['TemplateHeading']>(`/libraries/${copyTo.value}/copy`, { fromLibrary: props.library, templateId: props.template })
    await reload()
    await router.push(`/library/${copyTo.value}/${made.id}`)
  }, 'Copied; change the copy as you like')
}
/** What a reference outward is called, without where it was. */
const plain = (name: string) => name.replace(/ \([^()]*\)$/, '')
watch(
  view,
  async (v) => {
    outward.value = {}
    for (const x of v?.template.externals ?? []) {
      // Where the project has a record of the very name and place it led to, that is proposed.
      const hits = await get<Schemas['Hit'][]>(`/find?nouns=${encodeURIComponent(x.noun)}&q=${encodeURIComponent(plain(x.name))}`)
      const same = hits.find((h) => `${h.name} (${h.path})` === x.name || h.name === x.name)
      if (same) outward.value[x.id] = { id: same.id, name: same.path ? `${same.name} (${same.path})` : same.name }
    }
  },
  { immediate: true },
)
const undecided = computed(() => (view.value?.template.externals ?? []).filter((x) => !outward.value[x.id]))
const newName = ref('')
const shared = ref(true)
async function addLibrary() {
  if (await attempt(() => post('/libraries', { name: newName.value, shared: shared.value }), 'Library made')) newName.value = ''
  await reload()
}
const file = ref<{ library: string; blob: File; view: Schemas['LibraryFileView'] } | null>(null)
async function readFile(library: string, blob: File | undefined) {
  if (blob) await attempt(async () => (file.value = { library, blob, view: await send<Schemas['LibraryFileView']>(`/libraries/${library}/file`, blob) }))
}
/** What becomes of each template of a file that clashes with one that is here; left out unless somebody says otherwise. */
const decided = ref<Record<string, string>>({})
watch(file, (f) => (decided.value = Object.fromEntries((f?.view.clashes ?? []).map((c) => [c.templateId, 'leave']))))
const chosen = (what: string) =>
  Object.entries(decided.value)
    .filter(([, d]) => d === what)
    .map(([id]) => id)
    .join(',')
async function takeFile() {
  await attempt(
    () => send(`/libraries/${file.value!.library}/file?take=true&next=${chosen('next')}&own=${chosen('own')}`, file.value!.blob),
    'Taken into the library',
  )
  file.value = null
  await reload()
}
const sorts: Record<string, string> = { shipped: 'ships with the program · for reading', shared: 'shared here', personal: 'your own' }
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Library</h1>
      <span class="dim">templates to place again and again</span><span class="space" /><PlanTabs />
    </div>
    <div class="cols">
      <aside class="sheet shelf" aria-label="Libraries">
        <input v-model="shelfWords" class="field" placeholder="find a template by words" aria-label="Find a template" />
        <div v-for="l in shown" :key="l.id">
          <h3>{{ l.name }}</h3>
          <p class="dim tiny">{{ sorts[l.sort] }}{{ l.sort !== 'shipped' && !l.canWrite ? ' · for reading' : '' }}</p>
          <RouterLink v-for="t in l.templates" :key="t.id" class="entry" :class="{ on: t.id === template && l.id === library }" :to="`/library/${l.id}/${t.id}`"
            ><span>{{ t.name }}</span> <span class="dim">{{ t.folder }}</span></RouterLink
          >
          <p v-if="!l.templates.length" class="dim tiny">
            Nothing in it yet. Choose equipment, a room or a floor under Section, open its dossier, and take it as a template.
          </p>
          <p class="acts">
            <a class="btn small" :href="api(`/libraries/${l.id}/file`)" download>Save as file</a>
            <button
              v-if="l.sort !== 'shipped' && store.may('engineer')"
              class="btn small"
              :aria-label="`${l.canWrite ? 'Close' : 'Open'} ${l.name} for writing`"
              @click="setReading(l.id, l.canWrite)"
            >
              {{ l.canWrite ? 'Close for writing' : 'Open for writing' }}
            </button>
            <label v-if="l.canWrite && store.may('engineer')" class="btn small"
              >Take in a file<input type="file" class="hidden" @change="readFile(l.id, ($event.target as HTMLInputElement).files?.[0])"
            /></label>
          </p>
        </div>
        <form v-if="store.may('engineer')" class="acts new" @submit.prevent="addLibrary">
          <input v-model="newName" class="field" placeholder="new library" aria-label="Name of a new library" maxlength="60" required />
          <label style="white-space: nowrap"><input v-model="shared" type="checkbox" /> shared</label><button class="btn small">Make</button>
        </form>
        <div v-if="file" class="bar decides">
          <b>{{ file.view.name }}</b>
          <p>{{ file.view.new.length }} new, {{ file.view.same.length }} the same, {{ file.view.clashes.length }} clash.</p>
          <p v-for="c in file.view.clashes" :key="c.templateId" class="tiny">
            <b class="wrong">✕ {{ c.name }}</b
            >, revision {{ c.revision }} by {{ c.author }}; here {{ c.here }}
            <select v-model="decided[c.templateId]" class="field" :aria-label="`What becomes of ${c.name}`">
              <option value="leave">leave it out</option>
              <option v-if="!c.here.startsWith('another')" value="next">take as the next revision</option>
              <option value="own">take as a template of its own</option>
            </select>
          </p>
          <p class="mono tiny">{{ file.view.hash.slice(0, 16) }}…</p>
          <button class="btn small main" @click="takeFile">Take in</button> <button class="btn small" @click="file = null">Leave</button>
        </div>
      </aside>
      <div v-if="!view" class="sheet empty">
        <h2>Choose a template</h2>
        <p>It tells its points, tags, trends and alarms, and is placed into as many rooms as you like in one step.</p>
      </div>
      <template v-else>
        <div class="place">
          <div class="sheet what">
            <h2>{{ view.template.name }}</h2>
            <p>{{ view.template.comment }}</p>
            <p class="dim">
              revision {{ view.template.revision }} by {{ view.template.author }} · {{ points.length }} points · {{ others.length }} trends, alarms and
              sequences
            </p>
            <table class="grid">
              <tbody>
                <tr v-for="p in points" :key="p.id">
                  <td>{{ p.name }}</td>
                  <td class="dim">{{ p.kind }} {{ p.role }}</td>
                  <td class="mono">{{ p.unit ?? p.stateTexts?.join(' · ') }}</td>
                </tr>
              </tbody>
            </table>
            <template v-if="clauses.length">
              <h3>What it does</h3>
              <ol class="does">
                <li v-for="(c, i) in clauses" :key="i">{{ c }}</li>
              </ol>
            </template>
            <div v-if="!view.canWrite && store.may('engineer')" class="bar medium">
              <p>
                {{ here?.name }} {{ here?.sort === 'shipped' ? 'ships with the program and stays for reading' : 'is for reading' }}. To change this template,
                {{ here?.sort === 'shipped' ? 'copy it.' : 'open the library for writing, or copy it.' }}
              </p>
              <p class="acts">
                <button v-if="here?.sort !== 'shipped'" id="open-writing" class="btn small" @click="setReading(library!, false)">Open for writing</button>
                <template v-if="writable.length"
                  ><select v-model="copyTo" class="field" aria-label="Library to copy into">
                    <option v-for="l in writable" :key="l.id" :value="l.id">{{ l.name }}</option></select
                  ><button id="copy-template" class="btn small" @click="copyTemplate">Copy into it</button></template
                ><span v-else class="dim">Make a library of your own at the left to copy it into.</span>
              </p>
            </div>
            <template v-if="view.canWrite && store.may('engineer') && view.template.parameters?.length">
              <h3>
                Parameters
                <button v-if="!parameters" id="edit-parameters" class="btn small" @click="editParameters">Change them</button>
              </h3>
              <form v-if="parameters" class="parameters" @submit.prevent="saveParameters">
                <div v-for="(p, i) in parameters" :key="p.name" class="bar">
                  <p class="acts">
                    <input v-model="p.label" class="field" :aria-label="`Label of ${p.name}`" required maxlength="80" />
                    <select v-model="p.kind" class="field" :aria-label="`Kind of ${p.label}`">
                      <option>number</option>
                      <option>text</option>
                      <option>choice</option>
                    </select>
                    <button type="button" class="btn small" :aria-label="`${p.label} varies no longer`" @click="parameters!.splice(i, 1)">✕</button>
                  </p>
                  <p class="acts">
                    <label>default <input v-model="p.default" class="field mono short" :aria-label="`Default of ${p.label}`" /></label>
                    <template v-if="p.kind === 'number'"
                      ><label>unit <input v-model="p.unit" class="field mono tiny-field" :aria-label="`Unit of ${p.label}`" /></label
                      ><label
                        >from
                        <input
                          class="field mono tiny-field"
                          :value="p.low ?? ''"
                          :aria-label="`Lowest ${p.label}`"
                          @change="p.low = limit(($event.target as HTMLInputElement).value)" /></label
                      ><label
                        >to
                        <input
                          class="field mono tiny-field"
                          :value="p.high ?? ''"
                          :aria-label="`Highest ${p.label}`"
                          @change="p.high = limit(($event.target as HTMLInputElement).value)" /></label
                    ></template>
                    <label v-if="p.kind === 'choice'"
                      >one of
                      <input
                        class="field"
                        :value="(p.choices ?? []).join(', ')"
                        :aria-label="`Choices of ${p.label}`"
                        @change="p.choices = ($event.target as HTMLInputElement).value.split(/\s*,\s*/).filter(Boolean)"
                    /></label>
                  </p>
                </div>
                <p class="acts">
                  <button class="btn small main">Save as revision {{ Number(view.template.revision) + 1 }}</button
                  ><button type="button" class="btn small" @click="parameters = null">Leave</button>
                </p>
              </form>
            </template>
            <template v-if="view.canWrite && store.may('engineer') && fixed.length">
              <h3>
                What could vary <input v-model="varyWords" class="field" placeholder="words" aria-label="Words of what could vary" style="width: 130px" />
              </h3>
              <p v-for="v in fixed.filter((x) => x.words.toLowerCase().includes(varyWords.toLowerCase())).slice(0, 40)" :key="v.record + v.path" class="vary">
                <span
                  >{{ v.words }} <span class="mono">{{ v.value }} {{ v.unit }}</span></span
                >
                <button class="btn small" :data-vary="v.path" @click="vary(v)">Make it a parameter</button>
              </p>
            </template>
          </div>
          <div v-if="preview" class="sheet" aria-label="Preview">
            <p v-for="r in preview.refusals.slice(0, 8)" :key="r" class="bar high">✕ {{ r }}</p>
            <p>
              <b>{{ preview.placements }} placements</b>:
              {{ preview.records.join(', ') }}
            </p>
            <div class="scroll">
              <table class="grid">
                <thead>
                  <tr>
                    <th>Name</th>
                    <th>Where</th>
                    <th v-for="p in view.template.parameters" :key="p.name">{{ p.label }}{{ p.unit ? `, ${p.unit}` : '' }}</th>
                  </tr>
                </thead>
                <tbody>
                  <tr v-for="(r, i) in preview.rows" :key="i">
                    <td>
                      <details>
                        <summary>{{ r.name }}</summary>
                        <ul class="made">
                          <li v-for="(m, k) in r.records" :key="k">+ {{ m }}</li>
                        </ul>
                      </details>
                    </td>
                    <td class="dim">{{ r.path }}</td>
                    <td v-for="p in view.template.parameters" :key="p.name">
                      <input
                        class="field mono"
                        style="width: 76px"
                        :value="r.values[p.name]"
                        :aria-label="`${p.label} of ${r.name}`"
                        @change="setRow(i, p.name, ($event.target as HTMLInputElement).value)"
                      />
                    </td>
                  </tr>
                </tbody>
              </table>
            </div>
            <JobBar v-if="job" :job="job" />
            <button v-if="job?.state !== 'running'" id="place" class="btn main" :disabled="!!preview.refusals.length" @click="place">
              Place {{ preview.placements }}
            </button>
          </div>
        </div>
        <div v-if="store.may('engineer')" class="place">
          <div class="sheet">
            <h2>Place it</h2>
            <label class="row"
              ><span>Named</span><input id="pattern" v-model="pattern" class="field" title="{building} {floor} {room} {short} {n} {nn} {nnn} {k}"
            /></label>
            <p class="dim tiny">
              <code>{room}</code> <code>{short}</code> <code>{floor}</code> <code>{building}</code> <code>{kind}</code> <code>{name}</code>;
              <code>{n}</code> counts over all, <code>{nn}</code> with two digits, <code>{k}</code> within a room
            </p>
            <label class="row"
              ><span>In each {{ into }}</span
              ><input v-model.number="each" class="field mono" type="number" min="1" max="100" style="width: 70px"
            /></label>
            <label v-for="p in view.template.parameters" :key="p.name" class="row"
              ><span>{{ p.label }}</span
              ><span
                ><input v-if="p.kind !== 'choice'" v-model="values[p.name]" class="field mono" style="width: 90px" :data-parameter="p.name" /><select
                  v-else
                  v-model="values[p.name]"
                  class="field"
                >
                  <option v-for="c in p.choices ?? []" :key="c">{{ c }}</option>
                </select>
                {{ p.unit }} <span v-if="p.low != null" class="dim tiny">{{ p.low }} to {{ p.high }}</span></span
              ></label
            >
          </div>
          <div v-if="view.template.externals?.length" class="sheet" aria-label="References outward">
            <h2>Leads outward</h2>
            <div v-for="x in view.template.externals" :key="x.id" class="bar" :class="{ medium: !outward[x.id] }">
              <p>
                <b>{{ x.noun }}</b> <span class="dim">was {{ x.name }}</span>
              </p>
              <p v-if="outward[x.id]" class="acts">
                {{
                  outward[x.id]!.id
                    ? `→ ${outward[x.id]!.name}`
                    : outward[x.id]!.nearest
                      ? `→ in each place the ${x.noun} ‘${outward[x.id]!.name}’ that is nearest`
                      : '○ left open; connect it afterwards'
                }}
                <button class="btn small" @click="outward = Object.fromEntries(Object.entries(outward).filter(([k]) => k !== x.id))">Choose anew</button>
              </p>
              <template v-else>
                <p class="acts">
                  <FindRecord
                    :nouns="x.noun"
                    :placeholder="`words of a ${x.noun}`"
                    :label="`Find a ${x.noun} for ${x.name}`"
                    @choose="(h) => h && (outward = { ...outward, [x.id]: { id: h.id, name: h.path ? `${h.name} (${h.path})` : h.name } })"
                  /><button class="btn small" @click="outward = { ...outward, [x.id]: { id: null, name: plain(x.name), nearest: true } }">
                    The nearest ‘{{ plain(x.name) }}’</button
                  ><button class="btn small" @click="outward = { ...outward, [x.id]: { id: null, name: '' } }">Leave open</button>
                </p>
              </template>
            </div>
          </div>
          <div class="sheet rooms">
            <div class="head">
              <h2>{{ intoPlural }}</h2>
              <span class="pill">{{ picked.size }} chosen</span>
              <input id="room-words" v-model="roomWords" class="field" placeholder="words of a room or floor" aria-label="Words of a room" />
              <button id="all-rooms" class="btn small" @click="all">All shown</button><button class="btn small" @click="picked = new Set()">None</button>
            </div>
            <div class="list">
              <label v-for="r in roomsShown" :key="r.id"
                ><input type="checkbox" :checked="picked.has(r.id)" @change="toggle(r.id)" /> {{ r.name }} <span class="dim">{{ r.path }}</span></label
              >
              <p v-if="!rooms.length" class="dim">No room yet. Import a list of rooms, or add them under Section.</p>
            </div>
            <button id="preview" class="btn main" :disabled="!picked.size || !!undecided.length" @click="look">See what would be made</button>
            <span v-if="undecided.length" class="wrong tiny"> Decide first where {{ undecided.length }} of the references lead.</span>
          </div>
        </div>
      </template>
    </div>
  </div>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: 250px minmax(380px, 1.25fr) minmax(340px, 1fr);
  gap: 12px;
  align-items: start;
}
.cols > .empty {
  grid-column: 2 / 4;
}
.shelf {
  display: grid;
  gap: 10px;
}
.entry {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  padding: 2px 6px;
  border-radius: 5px;
  text-decoration: none;
  color: var(--ink);
}
.entry.on {
  background: var(--plum-soft);
}
.place {
  display: grid;
  gap: 12px;
}
.rooms .list {
  max-height: 220px;
  overflow: auto;
  margin: 8px 0;
  display: grid;
}
.scroll {
  max-height: 260px;
  overflow: auto;
  margin: 6px 0;
}
.vary {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  align-items: center;
  padding: 2px 0;
}
.parameters {
  display: grid;
  gap: 6px;
}
.short {
  width: 80px;
}
.tiny-field {
  width: 56px;
}
.shelf .acts {
  flex-wrap: wrap;
}
.tiny {
  font-size: 12.5px;
}
.acts {
  display: flex;
  gap: 6px;
  align-items: center;
  margin-top: 4px;
}
.new .field {
  width: 96px;
}
.hidden {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}
@media (max-width: 700px) {
  .cols {
    grid-template-columns: minmax(0, 1fr);
  }
  .cols > .empty {
    grid-column: 1;
  }
}
.made {
  margin: 2px 0 4px;
  padding-left: 14px;
  list-style: none;
  font-size: 12.5px;
}
.does {
  margin: 0;
  padding-left: 20px;
}
</style>
