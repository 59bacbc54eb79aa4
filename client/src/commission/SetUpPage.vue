<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { count } from '../shared/numbers'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import { noSecrets, sheetStates } from './contact'
import FoundList from './FoundList.vue'
import PlanTable from './PlanTable.vue'
import SecretsForm from './SecretsForm.vue'

/** The set-up sheet of one controller: all that its first contact takes, decided by default and seen at once. */
const props = defineProps<{ controller: string }>()
const store = useStore()
const attempt = useDo()
const picked = ref<Schemas['FoundDevice'] | null>(null)
const startsNow = ref(true)
const secrets = ref(noSecrets())
const isRight = ref(false)
const jobId = ref('')
const job = computed(() => store.jobs.get(jobId.value))
const {
  value: sheet,
  problem,
  reload,
} = useShown(
  '/contacts/{id}/sheet',
  () => ({
    path: { id: props.controller },
    query: { ...(picked.value ? { host: picked.value.device.host, port: picked.value.device.port } : {}), startsNow: startsNow.value },
  }),
  ['controller', 'sequence', 'fitting', 'point', 'schedule', 'trend', 'alarm', 'module', 'jobs'],
)
const look = computed(() => sheet.value?.look)
const needsSecrets = computed(() => !!sheet.value?.lines.some((l) => l.key === 'secrets' && l.state === 'needs'))
const isKnown = computed(() => !!look.value && !look.value.seen.identity.isFactory)
const isExchanged = computed(() => !!look.value?.seen.remembered && look.value.seen.remembered !== look.value.seen.fingerprint)
const waits = computed(() =>
  !picked.value
    ? 'Pick the device that hangs there.'
    : !sheet.value?.isReady
      ? 'A line says ✕: what it says comes first.'
      : needsSecrets.value && !isRight.value
        ? 'The credentials are not complete yet.'
        : '',
)
const toggle = (field: string, text: string) => attempt(() => post('/cells', { body: { cells: [{ id: props.controller, field, text }] } }))
const extra = (key: string, on: boolean) =>
  toggle(
    'extraParts',
    sheet
      .value!.choices.filter((c) => (c.key === key ? on : c.isChosen))
      .map((c) => c.key)
      .join(', '),
  )
async function setUp() {
  const { serial, host, port } = picked.value!.device
  await attempt(async () => {
    const targets = [{ hostId: props.controller, serial, host, port, fingerprint: look.value!.seen.fingerprint }]
    const answer = await post('/contacts/set-up', {
      body: { targets, secrets: needsSecrets.value ? secrets.value : null, startsNow: startsNow.value, build: true },
    })
    if (answer.wrong.length) throw new Error(answer.wrong[0]!.sentence)
    const [started] = answer.jobs
    if (!store.jobs.has(started!.id)) store.jobs.set(started!.id, started!)
    jobId.value = started!.id
  })
}
const why = ref('')
const isAsked = ref(false)
async function exchanged() {
  if (await attempt(() => post('/contacts/{id}/forget', { path: { id: props.controller }, body: { why: why.value } }), 'Forgotten; it is met anew')) {
    isAsked.value = false
    await reload()
  }
}
</script>

<template>
  <PageShell :title="sheet ? `Set up ${sheet.name}` : 'Set up'" :problem="sheet ? '' : problem" @again="reload">
    <template v-if="look" #facts>
      <FactTag mono>{{ look.seen.identity.serial }}</FactTag><FactTag :tone="look.seen.identity.isFactory ? 'amber' : 'moss'">{{
        look.seen.identity.isFactory ? '○ out of its box' : '● was set up'
      }}</FactTag>
    </template>
    <template v-if="sheet" #actions>
      <span class="dim">{{ job?.state === 'running' ? '' : waits }}</span>
      <NButton id="set-up" type="primary" :disabled="!!waits || job?.state === 'running'" @click="setUp">Set it up</NButton>
    </template>
    <template v-if="sheet">
      <JobProgress v-if="job" :job="job" />
      <div v-if="job?.state === 'done'" class="sheet proof" data-proof>
        <b>✓ {{ job.message }}</b>
        <span class="space" />
        <LinkButton main :to="`/commission/check/${controller}`">Check its points</LinkButton>
        <LinkButton :to="`/commission/${controller}`">Its state</LinkButton>
      </div>
      <p v-if="problem" class="bar crimson">{{ problem }}</p>
      <p v-if="look?.trouble" class="bar crimson">
        {{ look.trouble }} <NButton v-if="isExchanged" id="exchanged" size="small" @click="isAsked = true">It was exchanged…</NButton>
      </p>
      <div class="cols">
        <div class="side">
          <div class="sheet">
            <h2>Which one</h2>
            <FoundList v-model="picked" :host-id="controller" />
          </div>
          <div class="sheet">
            <h2>What is decided</h2>
            <NTable size="small" :bordered="false" class="close">
              <tbody>
                <tr v-for="l in sheet.lines" :key="l.key" :data-line="l.key" :data-state="l.state">
                  <td>
                    <span :class="sheetStates[l.state].tone" :title="sheetStates[l.state].words">{{ sheetStates[l.state].shape }}</span><span class="unseen">{{
                      sheetStates[l.state].words
                    }}</span>
                  </td>
                  <td>{{ l.label }}</td>
                  <td>
                    <b>{{ l.says }}</b>
                    <NCheckbox v-if="l.key === 'starts'" id="starts-now" v-model:checked="startsNow" size="small">start it at once</NCheckbox>
                    <NCheckbox
                      v-else-if="l.key === 'power'"
                      id="starts-after"
                      :checked="l.says === 'yes'"
                      size="small"
                      @update:checked="(on: boolean) => toggle('startsAfterPower', on ? 'yes' : 'no')"
                      >by itself</NCheckbox
                    >
                    <NButton
                      v-else-if="l.key === 'network' || l.key === 'name'"
                      text
                      type="info"
                      size="small"
                      class="inline"
                      @click="store.selected = controller"
                      >change…</NButton
                    ><br /><span class="dim tiny">{{ l.why }}</span>
                  </td>
                </tr>
              </tbody>
            </NTable>
          </div>
        </div>
        <div class="side">
          <div v-if="needsSecrets" class="sheet">
            <h2>{{ isKnown ? 'The credentials it has' : 'Credentials of its own' }}</h2>
            <SecretsForm :key="String(isKnown)" v-model="secrets" v-model:right="isRight" :is-known="isKnown" />
          </div>
          <div class="sheet">
            <h2>What is transferred</h2>
            <PlanTable :plan="sheet.plan" />
            <p v-if="sheet.wires" class="dim">Before that, {{ count(sheet.wires) }} of its wires are built on the virtual site, as the wiring list says.</p>
            <template v-if="sheet.choices.some((c) => !c.isNeeded)">
              <h3>By choice</h3>
              <p class="acts">
                <NCheckbox
                  v-for="c in sheet.choices.filter((p) => !p.isNeeded)"
                  :key="c.key"
                  :checked="c.isChosen"
                  :data-extra="c.key"
                  @update:checked="(on: boolean) => extra(c.key, on)"
                  >{{ c.name }}, {{ count(c.kilobytes) }} kB</NCheckbox
                >
              </p>
              <p class="dim tiny">Parts that the program needs cannot be left out; each says who needs it.</p>
            </template>
          </div>
        </div>
      </div>
    </template>
    <NSkeleton v-else-if="!problem" text :repeat="5" />
    <ModalBox v-if="isAsked" label="It was exchanged" @close="isAsked = false">
      <form @submit.prevent="exchanged">
        <h2>It was exchanged</h2>
        <p>The certificate and the credentials that are kept for {{ sheet?.name }} are forgotten, and the one that hangs there now is met anew.</p>
        <label class="row"><span>Why</span><TextBox id="exchange-why" v-model="why" required maxlength="200" placeholder="what happened to the other" /></label>
        <p class="acts">
          <NButton id="exchange-do" type="primary" attr-type="submit">Forget the other</NButton><NButton @click="isAsked = false">Leave it</NButton>
        </p>
      </form>
    </ModalBox>
  </PageShell>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
  gap: 12px;
  align-items: start;
}
.side {
  display: grid;
  gap: 12px;
}
.proof {
  display: flex;
  gap: 10px;
  align-items: center;
}
.inline {
  margin-left: 8px;
}
.moss {
  color: var(--moss);
}
.amber {
  color: var(--amber);
}
.crimson {
  color: var(--crimson);
}
.unseen {
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  clip-path: inset(50%);
}
h3 {
  margin: 8px 0 2px;
}
@media (max-width: 700px) {
  .cols {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
