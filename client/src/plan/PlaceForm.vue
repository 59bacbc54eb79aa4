<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { count } from '../shared/numbers'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import { useJob } from '../shared/useJob'
import { matching } from '../shared/words'
import PlacePreview from './PlacePreview.vue'

/** Placing a template: named how, into which places, with which values, leading where; all of it seen before it is made. */
const props = defineProps<{ view: Schemas['TemplateView'] }>()
const store = useStore()
const attempt = useDo()
const t = computed(() => props.view.template)
const { value: places } = useShown('/places', () => ({ query: { kind: props.view.into } }), ['place', 'equipment'])
const words = ref('')
const shown = computed(() => matching(places.value ?? [], (r) => `${r.path} ${r.name}`, words.value))
const MOST = 300
const picked = ref<string[]>([])
const each = ref<number | null>(1)
const pattern = ref(props.view.named)
const values = ref<Record<string, string>>(Object.fromEntries((t.value.parameters ?? []).map((p) => [p.name, p.default])))
const rowValues = ref<Record<number, Record<string, string>>>({})
/** Where each reference that leads outward goes: a record, its namesake nearest each place, or left open on purpose; nothing is decided in silence. */
interface Way {
  id: string | null
  says: string
  nearest?: boolean
}
const outward = ref<Record<string, Way>>({})
const decide = (id: string, way: Way | null) => (outward.value = Object.fromEntries(Object.entries({ ...outward.value, [id]: way! }).filter(([, w]) => w)))
// Where the project has a record of the very name and place it led to, that is proposed.
for (const x of props.view.outward) if (x.here) decide(x.id, { id: x.here, says: `→ ${x.name}` })
const undecided = computed(() => props.view.outward.filter((x) => !outward.value[x.id]).length)
const preview = ref<Schemas['PlaceView'] | null>(null)
watch([picked, each, pattern, outward, values], () => ((rowValues.value = {}), (preview.value = null)), { deep: true })
const body = computed(() => ({
  libraryId: props.view.libraryId,
  templateId: t.value.id,
  placing: {
    places: picked.value,
    each: each.value ?? 0,
    namePattern: pattern.value,
    values: values.value,
    rowValues: rowValues.value,
    externals: Object.fromEntries(Object.entries(outward.value).flatMap(([x, to]) => (to.id ? [[x, to.id]] : []))) as never,
    namesakes: Object.entries(outward.value).flatMap(([x, to]) => (to.nearest ? [x] : [])),
  },
}))
const look = () => attempt(async () => (preview.value = await post('/templates/place/preview', { body: body.value })))
/** Many placements are made as a job: with progress, and a stop that leaves everything as it was. */
const LARGE = 200
function placed(done: boolean) {
  if (!done) return
  picked.value = []
  preview.value = null
}
const { job, start } = useJob(placed)
async function place() {
  const { placements } = preview.value!
  if (placements > LARGE) return void (await start(() => post('/templates/place/start', { body: body.value })))
  placed(await attempt(() => post('/templates/place', { body: body.value }), `Placed ${placements} × ${t.value.name}`))
}
async function setRow(row: number, name: string, value: string) {
  rowValues.value = { ...rowValues.value, [row]: { ...rowValues.value[row], [name]: value } }
  await look()
}
const all = () => (picked.value = [...new Set([...picked.value, ...shown.value.map((r) => r.id)])])
</script>

<template>
  <div class="place">
    <PlacePreview v-if="preview" :preview="preview" :parameters="t.parameters ?? []" @set="setRow" @leave="preview = null">
      <JobProgress v-if="job" :job="job" />
      <NButton v-if="job?.state !== 'running'" id="place" type="primary" :disabled="!!preview.refusals.length" @click="place"
        >Place {{ count(preview.placements) }}</NButton
      >
    </PlacePreview>
    <template v-if="store.may('engineer')">
      <div class="sheet">
        <h2>Place it</h2>
        <label class="row"><span>Named</span><TextBox id="pattern" v-model="pattern" title="{building} {floor} {room} {short} {n} {nn} {nnn} {k}" /></label>
        <p class="dim tiny">
          <code>{room}</code> <code>{short}</code> <code>{floor}</code> <code>{building}</code> <code>{kind}</code> <code>{name}</code>; <code>{n}</code> counts
          over all, <code>{nn}</code> with two digits, <code>{k}</code> within a room
        </p>
        <label class="row"
          ><span>In each {{ view.into }}</span
          ><NumberBox v-model="each" :width="70" required
        /></label>
        <label v-for="p in t.parameters" :key="p.name" class="row"
          ><span>{{ p.label }}</span
          ><PickOne v-if="p.kind === 'choice'" v-model="values[p.name]" :options="p.choices ?? []" :aria-label="p.label" />
          <span v-else class="acts"
            ><TextBox v-model="values[p.name]" mono style="width: 100px" :data-parameter="p.name" :aria-label="p.label" /> {{ p.unit }}
            <span v-if="p.low != null" class="dim tiny">{{ p.low }} to {{ p.high }}</span></span
          ></label
        >
      </div>
      <div v-if="view.outward.length" class="sheet" aria-label="References outward">
        <h2>Leads outward</h2>
        <div v-for="x in view.outward" :key="x.id" class="bar" :class="{ medium: !outward[x.id] }">
          <p>
            <b>{{ x.noun }}</b> <span class="dim">was {{ x.name }}</span>
          </p>
          <p v-if="outward[x.id]" class="acts">{{ outward[x.id]!.says }} <NButton size="small" @click="decide(x.id, null)">Choose anew</NButton></p>
          <p v-else class="acts">
            <RecordPicker
              :nouns="x.noun"
              :placeholder="`words of a ${x.noun}`"
              :aria-label="`Find a ${x.noun} for ${x.name}`"
              style="width: 220px"
              @choose="(h) => h && decide(x.id, { id: h.id, says: `→ ${h.path ? `${h.name} (${h.path})` : h.name}` })"
            /><NButton size="small" @click="decide(x.id, { id: null, nearest: true, says: `→ in each place the ${x.noun} ‘${x.called}’ that is nearest` })"
              >The nearest ‘{{ x.called }}’</NButton
            ><NButton size="small" @click="decide(x.id, { id: null, says: '○ left open; connect it afterwards' })">Leave open</NButton>
          </p>
        </div>
      </div>
      <div class="sheet rooms">
        <div class="head">
          <h2>Into each {{ view.into }}</h2>
          <FactTag>{{ count(picked.length) }} chosen</FactTag>
          <TextBox id="room-words" v-model="words" style="width: 190px" placeholder="words of a name or place" :aria-label="`Words of a ${view.into}`" />
          <NButton id="all-rooms" size="small" @click="all">All shown</NButton><NButton size="small" @click="picked = []">None</NButton>
        </div>
        <NCheckboxGroup v-model:value="picked" class="list">
          <NCheckbox v-for="r in shown.slice(0, MOST)" :key="r.id" :value="r.id"
            >{{ r.name }} <span class="dim">{{ r.path }}</span></NCheckbox
          >
        </NCheckboxGroup>
        <p v-if="shown.length > MOST" class="dim">
          {{ count(shown.length - MOST) }} more; words narrow them down. “All shown” takes all {{ count(shown.length) }}.
        </p>
        <p v-if="places && !places.length" class="dim">There is no {{ view.into }} yet. Import a list of them, or add them under Section.</p>
        <p class="acts">
          <NButton id="preview" type="primary" :disabled="!picked.length || !!undecided" @click="look">See what would be made</NButton>
          <span v-if="undecided" class="wrong tiny">Decide first where {{ undecided }} of the references lead.</span>
        </p>
      </div>
    </template>
  </div>
</template>

<style scoped>
.place,
.rooms {
  display: grid;
  gap: 12px;
}
.list {
  max-height: 240px;
  overflow: auto;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(240px, 1fr));
}
</style>
