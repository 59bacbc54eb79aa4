<script setup lang="ts">
import { computed, ref } from 'vue'
import { NCheckbox } from 'naive-ui'
import { get, post, type Schemas } from '../shared/api/http'
import { useLoaded, useStore } from '../shared/store'
import JobBar from '../shared/JobBar.vue'
import { useDo } from '../shared/useDo'

const props = defineProps<{ controller: string }>()
const store = useStore()
const attempt = useDo()
const jobId = ref('')
const job = computed(() => store.jobs.get(jobId.value))
const { value: review, problem } = useLoaded<Schemas['SendReview']>(
  () => get(`/commission/${props.controller}`),
  () => [props.controller, job.value?.state],
  ['controller', 'fitting', 'point', 'sequence', 'schedule', 'trend', 'alarm', 'plantTie', 'equipment', 'place'],
)
const back = ref<Schemas['ReadBack'] | null>(null)
/** Wires are built as an act of their own, before the program is sent; it can be left for later. */
const builds = ref(true)
const step: Record<Schemas['BuildStep'], string> = { build: '+ wire', change: '~ rewire', takeAway: '− take off' }
const word: Record<string, string> = { added: '+ new', changed: '~ changed', removed: '− goes' }
async function send() {
  back.value = null
  await attempt(async () => {
    const started = await post<Schemas['JobView']>(`/commission/${props.controller}/send?build=${builds.value}`)
    if (!store.jobs.has(started.id)) store.jobs.set(started.id, started)
    jobId.value = started.id
  })
}
const readBack = () => attempt(async () => (back.value = await get(`/commission/${props.controller}/read-back`)))
</script>

<template>
  <div class="page">
    <p v-if="problem" class="wrong">{{ problem }}</p>
    <template v-if="review">
      <div class="head">
        <h1>Send {{ review.name }}</h1>
        <span class="pill" :class="review.installed ? 'moss' : 'amber'">{{
          review.installed ? `● runs version ${review.version}` : '○ runs nothing yet'
        }}</span><span class="pill">{{ (review.bytes / 1024).toFixed(1) }} kB</span
        ><span class="pill mono" :title="review.designHash">design {{ review.designHash.slice(0, 10) }}</span> <span class="space" /><RouterLink
          class="btn"
          to="/commission"
          >All controllers</RouterLink
        ><button v-if="store.may('technician')" class="btn" :disabled="!review.installed" @click="readBack">Read back and compare</button>
        <button
          v-if="store.may('technician')"
          id="send"
          class="btn main"
          :disabled="job?.state === 'running' || (!review.differences.length && !(builds && review.wires.length))"
          @click="send"
        >
          {{ builds && review.wires.length ? (review.installed ? 'Wire and send' : 'Mount, wire and send') : review.installed ? 'Send' : 'Mount and send' }}
        </button>
      </div>
      <JobBar v-if="job" :job="job" />
      <div v-for="f in review.findings" :key="f.key" class="bar" :class="f.severity">
        <b>{{ f.what }}</b> <span class="dim">{{ f.path }} · {{ f.why }}</span>
      </div>
      <div class="cols">
        <div class="sheet">
          <h2>
            What will change <span class="pill">{{ review.differences.length }}</span>
          </h2>
          <p v-if="!review.differences.length" class="dim">✓ Nothing: {{ review.name }} runs the design.</p>
          <table v-else class="grid">
            <tbody>
              <tr v-for="d in review.differences" :key="d.id + d.noun">
                <td style="white-space: nowrap" :class="{ wrong: d.kind === 'removed' }">{{ word[d.kind] }}</td>
                <td>{{ d.noun }}</td>
                <td>
                  <b>{{ d.name }}</b>
                  <p v-for="f in d.fields" :key="f.words" class="mono field-diff">
                    {{ f.words }}: <span class="old">{{ f.before ?? 'none' }}</span> → {{ f.after ?? 'none' }}
                  </p>
                </td>
              </tr>
            </tbody>
          </table>
        </div>
        <div class="sheet">
          <h2>
            What the electrician will do <span class="pill">{{ review.wires.length }}</span>
          </h2>
          <p v-if="!review.wires.length" class="dim">✓ Wired as drawn.</p>
          <template v-else>
            <NCheckbox id="builds" v-model:checked="builds">Wire the virtual site as the wiring list says, before sending</NCheckbox>
            <p class="dim">
              {{ builds ? 'Wires of other controllers stay as they are.' : 'Until they are wired, these terminals read “nothing connected”.' }}
              <RouterLink to="/commission/build">All that is to be built</RouterLink>
            </p>
            <p v-for="w in review.wires" :key="w.terminal ?? ''">
              <span class="mono">{{ w.terminal }}</span> {{ step[w.step] }}: <b>{{ w.name }}</b> <span v-if="w.detail" class="dim">{{ w.detail }}</span>
            </p>
          </template>
        </div>
      </div>
      <div v-if="back" class="sheet">
        <h2>Read back</h2>
        <p>
          <b>{{ back.sentence }}</b> Version {{ back.version }}, {{ back.records }} records, {{ (back.bytes / 1024).toFixed(1) }} kB, hash
          <span class="mono">{{ back.hash.slice(0, 16) }}…</span>
        </p>
        <p v-for="d in back.differences" :key="d.id + d.noun">
          {{ word[d.kind] }} {{ d.noun }} <b>{{ d.name }}</b>
        </p>
      </div>
    </template>
  </div>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
  gap: 12px;
  align-items: start;
}
.field-diff {
  font-size: 12.5px;
  overflow-wrap: anywhere;
}
.old {
  text-decoration: line-through;
  color: var(--ink-2);
}
</style>
