<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { count, siteTime, when } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Action, Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'
import { offWords, speed } from './contact'
import ConnectionForm from './ConnectionForm.vue'
import SetUpMany from './SetUpMany.vue'

/** The connection of every controller: what hangs where, whether it was met, by which certificate it is known, how its clock goes. */
type Line = Schemas['ContactLine']
const store = useStore()
const router = useRouter()
const attempt = useDo()
const { value: contacts, problem, reload } = useShown('/contacts', () => ({}), ['controller', 'events', 'jobs'])
const { value: devices } = useShown('/devices', () => ({}), ['events', 'jobs'])
const zone = computed(() => store.project?.timeZone ?? 'UTC')
const unheard = (c: Line) => devices.value?.find((d) => d.standing.id === c.hostId && d.link !== 'heard')
const many = ref<Line[] | null>(null)
const asked = ref<Line | null>(null)
const why = ref('')
const page = (c: Line) => `/commission/contact/${c.hostId}`
const may = () => store.may('technician')
const done = computed(() => contacts.value?.filter((c) => c.contact?.setUpAt).length ?? 0)
const columns: Column<Line>[] = [
  { key: 'name', title: 'Controller', sort: (c) => c.name },
  { key: 'state', title: 'First contact', width: 250, sort: (c) => c.contact?.setUpAt ?? 0 },
  { key: 'device', title: 'Device', width: 120, sort: (c) => c.contact?.serial ?? c.label ?? '' },
  { key: 'clock', title: 'Clock, when last set', width: 170, sort: (c) => c.contact?.clockOffset ?? 0 },
]
async function hang(rows: Line[], reason = '') {
  for (const c of rows) if (!(await attempt(() => post('/contacts/{id}/hang', { path: { id: c.hostId }, body: { why: reason } })))) break
  await reload()
}
async function exchange() {
  const line = asked.value!
  asked.value = null
  await hang([line], why.value)
}
const actions: Action<Line>[] = [
  { label: 'Set up', run: ([c]) => router.push(page(c!)), when: may },
  { label: 'Set up together', run: (rows) => (many.value = rows), many: true, when: may },
  { label: 'Hang out of its box', run: (rows) => hang(rows.filter((c) => !c.label)), many: true, when: (c) => may() && !c.label },
  {
    label: 'Exchange for another…',
    run: ([c]) => {
      why.value = ''
      asked.value = c!
    },
    when: (c) => may() && !!c.label,
  },
  { label: 'Dossier', run: ([c]) => (store.selected = c!.hostId) },
]
</script>

<template>
  <PageShell lede="from the box to a controller that runs" :problem="problem" @again="reload">
    <template v-if="contacts" #facts
      ><FactTag :tone="done === contacts.length ? 'moss' : 'amber'"
        >{{ done === contacts.length ? '✓' : '○' }} {{ count(done) }} of {{ count(contacts.length) }} set up</FactTag
      ></template
    >
    <SetUpMany v-if="many" :lines="many" @close="many = null" />
    <EmptyState v-if="contacts && !contacts.length" title="No controller yet">
      Add one under Wire; then it can be hung, met and set up here.
      <template #next><LinkButton to="/wire" main>Wire</LinkButton></template>
    </EmptyState>
    <RecordTable
      v-else-if="contacts"
      :rows="contacts"
      :columns="columns"
      :id="(c) => c.hostId"
      noun="controller"
      plural="controllers"
      :words="(c) => `${c.name} ${c.path} ${c.label ?? ''}`"
      :page="page"
      :actions="actions"
    >
      <template #name="{ row: c }"
        ><RouterLink :to="page(c)"
          ><b>{{ c.name }}</b></RouterLink
        ><br /><span class="dim tiny">{{ c.path }}</span></template
      >
      <template #state="{ row: c }"
        ><FactTag v-if="unheard(c)" :tone="unheard(c)!.link === 'silent' ? 'crimson' : 'amber'"
          >◇ {{ unheard(c)!.link }} since {{ siteTime(unheard(c)!.standing.silentSince, zone, false, true) }}</FactTag
        ><FactTag v-else-if="c.contact?.setUpAt" tone="moss">✓ set up by {{ c.contact.setUpBy }}</FactTag
        ><FactTag v-else-if="c.contact" tone="amber">○ met, not finished</FactTag
        ><FactTag v-else-if="c.label" tone="amber">○ hangs, as it came out of its box</FactTag><FactTag v-else>○ in its box</FactTag></template
      >
      <template #device="{ row: c }"
        ><span class="mono">{{ c.contact?.serial ?? c.label ?? '–' }}</span></template
      >
      <template #clock="{ row: c }"
        ><span v-if="c.contact?.clockOffset != null" :class="{ wrong: Math.abs(c.contact.clockOffset) > 5000 }">{{ offWords(c.contact.clockOffset) }}</span
        ><span v-else class="dim">–</span></template
      >
      <template #details="{ row: c }">
        <h2>{{ c.name }}</h2>
        <p class="dim">{{ c.path }}, {{ c.model }}</p>
        <dl>
          <dt>Address</dt>
          <dd class="mono">{{ c.address ?? 'not decided; the sheet proposes one' }}</dd>
          <template v-if="c.contact">
            <dt>Reached</dt>
            <dd class="mono">{{ c.contact.host }}:{{ c.contact.port }}</dd>
            <dt>Known by</dt>
            <dd class="mono">{{ c.contact.fingerprint.slice(0, 32).replace(/(.{4})/g, '$1 ') }}…</dd>
            <dt>Accounts</dt>
            <dd>{{ [c.contact.account, c.contact.secondAccount].filter(Boolean).join(', ') }}; kept here, encrypted</dd>
            <dt>Speed</dt>
            <dd>{{ c.contact.kilobitsPerSecond ? `${speed(c.contact.kilobitsPerSecond)}, as found` : 'not measured yet' }}</dd>
            <dt>Set up</dt>
            <dd>{{ c.contact.setUpAt ? `${when(c.contact.setUpAt)} by ${c.contact.setUpBy}` : 'not finished' }}</dd>
            <template v-if="c.contact.clockDrift != null">
              <dt>Clock</dt>
              <dd>goes {{ Math.abs(c.contact.clockDrift).toFixed(1) }} s a day {{ c.contact.clockDrift < 0 ? 'slow' : 'fast' }}; set every hour</dd>
            </template>
          </template>
        </dl>
        <p v-if="may()" class="acts">
          <LinkButton :main="!c.contact?.setUpAt" :to="page(c)">{{ c.contact?.setUpAt ? 'Sheet' : 'Set it up' }}</LinkButton>
          <NButton v-if="!c.label" :id="`hang-${c.hostId}`" @click="hang([c])">Hang out of its box</NButton>
        </p>
        <ConnectionForm v-if="c.link && may()" :key="c.hostId" :host="c.hostId" :link="c.link" @done="reload" />
      </template>
    </RecordTable>
    <NSkeleton v-else text :repeat="5" />
    <ModalBox v-if="asked" label="Exchange for another" @close="asked = null">
      <form @submit.prevent="exchange">
        <h2>Exchange {{ asked.name }} for another</h2>
        <p>
          On the virtual site another {{ asked.model }} hangs in its place, as it comes out of its box. What the old one runs, remembers and has kept goes with
          it.
        </p>
        <label class="row"><span>Why</span><TextBox id="hang-why" v-model="why" required maxlength="200" placeholder="what is wrong with it" /></label>
        <p class="acts"><NButton id="hang-do" type="primary" attr-type="submit">Exchange it</NButton><NButton @click="asked = null">Leave it</NButton></p>
      </form>
    </ModalBox>
  </PageShell>
</template>

<style scoped>
dl {
  margin: 8px 0;
}
</style>
