<script setup lang="ts">
import { computed, ref } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import { many, count } from '../shared/numbers'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import { noSecrets } from './contact'
import SecretsForm from './SecretsForm.vue'

/** Many controllers set up at once from one table, each with the device that is certainly its own, and each with its own outcome. */
const props = defineProps<{ lines: Schemas['ContactLine'][] }>()
const emit = defineEmits<{ close: [] }>()
const store = useStore()
const attempt = useDo()
interface Row {
  line: Schemas['ContactLine']
  found?: Schemas['FoundDevice']
  look?: Schemas['ContactLook']
  trouble?: string
  jobId?: string
}
const rows = ref<Row[]>(props.lines.map((line) => ({ line })))
const isLooking = ref(true)
const secrets = ref(noSecrets())
const isRight = ref(false)
const startsNow = ref(true)
const ready = computed(() => rows.value.filter((r) => r.look && !r.trouble && !r.jobId))
const needsSecrets = computed(() => ready.value.some((r) => !r.look!.seen.hasSecrets || r.look!.seen.identity.isFactory))
const jobOf = (r: Row) => (r.jobId ? store.jobs.get(r.jobId) : undefined)
const ended = computed(() => rows.value.filter((r) => jobOf(r)?.state === 'done').length)
async function look() {
  isLooking.value = true
  await attempt(async () => {
    const found = await post('/contacts/discover', { body: { network: '' } })
    await Promise.all(
      rows.value.map(async (r) => {
        r.found = found.find((f) => f.hostId === r.line.hostId && f.isSure)
        if (!r.found) return void (r.trouble = r.line.label ? 'It does not answer.' : 'Nothing hangs there yet. Hang it out of its box.')
        try {
          const { host, port } = r.found.device
          r.look = await post('/contacts/{id}/look', { path: { id: r.line.hostId }, body: { host, port } })
          r.trouble = r.look.trouble ?? undefined
        } catch (e) {
          r.trouble = (e as Error).message
        }
      }),
    )
  })
  isLooking.value = false
}
void look()
async function setUp() {
  const going = ready.value
  await attempt(async () => {
    const targets = going.map((r) => ({
      hostId: r.line.hostId,
      serial: r.found!.device.serial,
      host: r.found!.device.host,
      port: r.found!.device.port,
      fingerprint: r.look!.seen.fingerprint,
    }))
    const answer = await post('/contacts/set-up', {
      body: { targets, secrets: needsSecrets.value ? secrets.value : null, startsNow: startsNow.value, build: true },
    })
    if (answer.wrong.length) throw new Error(answer.wrong[0]!.sentence)
    answer.jobs.forEach((job, i) => {
      if (!store.jobs.has(job.id)) store.jobs.set(job.id, job)
      going[i]!.jobId = job.id
    })
  })
}
</script>

<template>
  <div class="sheet" data-many>
    <div class="head">
      <h2>Set up {{ many(lines.length, 'controller') }} together</h2>
      <span class="space" />
      <NCheckbox v-model:checked="startsNow">start them at once</NCheckbox>
      <NButton id="set-up-many" type="primary" :disabled="!ready.length || (needsSecrets && !isRight)" @click="setUp">Set up {{ count(ready.length) }}</NButton>
      <NButton :loading="isLooking" @click="look">Look again</NButton>
      <NButton @click="emit('close')">Close</NButton>
    </div>
    <div class="cols">
      <NTable size="small" :bordered="false" class="close">
        <tbody>
          <tr v-for="r in rows" :key="r.line.hostId" :data-outcome="jobOf(r)?.state ?? (r.trouble ? 'trouble' : r.look ? 'ready' : 'looking')">
            <td class="name">
              <b>{{ r.line.name }}</b>
            </td>
            <td class="mono name">{{ r.found?.device.serial ?? '–' }}</td>
            <td>
              <template v-if="jobOf(r)">{{ jobOf(r)!.state === 'done' ? '✓' : jobOf(r)!.state === 'running' ? '●' : '✕' }} {{ jobOf(r)!.message }}</template
              ><span v-else-if="r.trouble" class="wrong">✕ {{ r.trouble }}</span
              ><span v-else-if="r.look">{{ r.look.seen.identity.isFactory ? '○ out of its box' : '● set up before' }}</span
              ><span v-else class="dim">looking…</span>
            </td>
          </tr>
        </tbody>
      </NTable>
      <div v-if="needsSecrets && !ended">
        <p class="dim">Those that have none kept here get these.</p>
        <SecretsForm v-model="secrets" v-model:right="isRight" />
      </div>
    </div>
    <p v-if="ended" class="dim">{{ count(ended) }} of {{ count(rows.length) }} are set up and run.</p>
  </div>
</template>

<style scoped>
.name {
  white-space: nowrap;
}
.cols {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
  gap: 12px;
  align-items: start;
}
</style>
