<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useShown } from '../shared/api/cache'
import type { Schemas } from '../shared/api/http'
import { change, newId, put } from '../shared/api/records'
import { count, many, siteTime, when } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Action, Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'

type Line = Schemas['ControllerLine']
const store = useStore()
const route = useRoute()
const router = useRouter()
const attempt = useDo()
const adding = ref(false)
const { value: controllers, problem, reload } = useShown('/controllers', () => ({}), 'all')
const { value: catalogue } = useShown('/catalogue', () => ({}), 'fixed')
const { value: devices } = useShown('/devices', () => ({}), ['events', 'jobs'])
const standing = (c: Line) => devices.value?.find((d) => d.standing.id === c.controller.id)
const silent = (c: Line) => standing(c)?.standing.silentSince != null
const { value: free } = useShown('/kinds/{key}/free', () => (adding.value ? { path: { key: 'controller' } } : null), ['controller'])
const removing = ref<string[] | null>(null)
const name = ref('')
const model = ref('')
const where = ref('')
const device = ref<number | null>(null)
watch(
  () => route.query.add,
  (a) => a && (adding.value = true),
  { immediate: true },
)
watch(free, (f) => f && (device.value = f.deviceInstance ?? 0), { immediate: true })
watch(catalogue, (c) => (model.value ||= c?.[0]?.id ?? ''), { immediate: true })
async function add() {
  const id = newId('ctl')
  const done = await attempt(() => {
    if (!where.value)
      throw new Error('Choose the room it hangs in from the list that comes up while you type its name. If there is none, add a room under Plan first.')
    return change([put('controller', { id, name: name.value.trim(), placeId: where.value, modelId: model.value, deviceInstance: device.value ?? 0 }, 0)])
  })
  if (done) await router.push(`/wire/${id}`)
}
const heard = computed(() => (store.clock?.link === 'heard' ? 'now' : when(store.clock?.heardAt)))
const page = (c: Line) => `/wire/${c.controller.id}`
const columns: Column<Line>[] = [
  { key: 'name', title: 'Panel', sort: (c) => c.controller.name },
  { key: 'fill', title: 'Terminals', width: 160, sort: (c) => c.used / Math.max(1, c.terminals) },
  { key: 'runs', title: 'On the site', width: 150, sort: (c) => c.version },
  { key: 'ahead', title: 'Design', width: 130, sort: (c) => c.ahead },
  { key: 'troubles', title: 'Faults', width: 78, sort: (c) => c.troubles },
  { key: 'findings', title: 'Check', width: 74, sort: (c) => c.findings },
]
const actions = computed<Action<Line>[]>(() => [
  { label: 'Open the panel', run: ([c]) => router.push(page(c!)) },
  { label: 'Review and send', run: ([c]) => router.push(`/commission/${c!.controller.id}`) },
  { label: 'Dossier', run: ([c]) => (store.selected = c!.controller.id) },
  ...(store.may('engineer')
    ? [{ label: 'Remove…', run: (rows: Line[]) => (removing.value = rows.map((c) => c.controller.id)), many: true, key: 'Delete' }]
    : []),
])
</script>

<template>
  <PageShell :problem="problem" @again="reload">
    <template v-if="controllers" #facts
      ><FactTag>{{ many(controllers.length, 'controller') }}</FactTag></template
    >
    <template #actions><NButton v-if="store.may('engineer')" id="add-controller" type="primary" @click="adding = true">Add a controller…</NButton></template>
    <EmptyState v-if="controllers && !controllers.length" title="No controller yet">
      A controller reads sensors, runs sequences and drives outputs. Add one and fit the points onto its terminals.
      <template v-if="store.may('engineer')" #next><NButton type="primary" @click="adding = true">Add a controller…</NButton></template>
    </EmptyState>
    <RecordTable
      v-else-if="controllers"
      :rows="controllers"
      :columns="columns"
      :id="(c) => c.controller.id"
      noun="controller"
      plural="controllers"
      :words="(c) => `${c.controller.name} ${c.path} ${c.model} ${c.controller.deviceInstance}`"
      :page="page"
      :actions="actions"
    >
      <template #name="{ row: c }"
        ><RouterLink :to="page(c)"
          ><b>{{ c.controller.name }}</b></RouterLink
        ><br /><span class="dim tiny">{{ c.path }}</span></template
      >
      <template #fill="{ row: c }"><FillBar :used="c.used" :of="c.terminals" /></template>
      <template #runs="{ row: c }"
        ><FactTag v-if="silent(c)" tone="crimson">◇ silent</FactTag
        ><FactTag v-else :tone="c.installed ? 'moss' : 'amber'">{{ c.installed ? `● runs version ${c.version}` : '○ nothing sent yet' }}</FactTag></template
      >
      <template #ahead="{ row: c }"
        ><FactTag :tone="c.ahead ? 'amber' : null">{{ c.ahead ? `▲ ${many(c.ahead, 'change')} ahead` : '✓ as designed' }}</FactTag></template
      >
      <template #troubles="{ row: c }"
        ><span :class="{ wrong: c.troubles }">{{ c.troubles ? `✕ ${c.troubles}` : c.installed ? '✓' : '–' }}</span></template
      >
      <template #findings="{ row: c }"
        ><span :class="{ wrong: c.findings }">{{ c.findings ? `▲ ${c.findings}` : '✓' }}</span></template
      >
      <template #details="{ row: c }">
        <h2>{{ c.controller.name }}</h2>
        <p class="dim">{{ c.path }}</p>
        <dl>
          <dt>Model</dt>
          <dd>{{ c.model }}</dd>
          <dt>Device</dt>
          <dd class="mono">{{ c.controller.deviceInstance }}</dd>
          <dt>Terminals</dt>
          <dd>{{ c.used }} used, {{ c.terminals - c.used }} spare; {{ count(c.values) }} values in memory</dd>
          <dt>Runs</dt>
          <dd>{{ c.installed ? `version ${c.version}, sent by ${c.sentBy} ${when(c.sentAt)}` : 'nothing yet' }}</dd>
          <dt>Heard</dt>
          <dd>
            {{ c.installed ? (silent(c) ? `not since ${siteTime(standing(c)!.standing.silentSince!, store.project?.timeZone ?? 'UTC', true)}` : heard) : '–' }}
          </dd>
          <dt>Design</dt>
          <dd>{{ c.ahead ? `${many(c.ahead, 'change')} ahead of what it runs` : 'what it runs' }}</dd>
        </dl>
        <p class="acts">
          <LinkButton main :to="page(c)">Open the panel</LinkButton><LinkButton :to="`/commission/${c.controller.id}`">Review and send</LinkButton>
        </p>
      </template>
    </RecordTable>
    <NSkeleton v-else text :repeat="5" />
    <ModalBox v-if="adding" label="Add a controller" @close="adding = false">
      <form @submit.prevent="add">
        <h2>Add a controller</h2>
        <label class="row"><span>Name</span><TextBox id="ctl-name" v-model="name" required maxlength="40" autofocus placeholder="KH-C1" /></label>
        <label class="row"
          ><span>Model</span><PickOne v-model="model" :options="(catalogue ?? []).map((m) => ({ value: m.id, label: m.name }))" aria-label="Model"
        /></label>
        <label class="row"
          ><span>Hangs in</span
          ><RecordPicker id="ctl-where" nouns="room" placeholder="words of a room" aria-label="Hangs in" @choose="(hit) => (where = hit?.id ?? '')"
        /></label>
        <label class="row"><span>Device instance</span><NumberBox v-model="device" required /></label>
        <p class="acts"><NButton id="ctl-add" type="primary" attr-type="submit">Add it</NButton><NButton @click="adding = false">Leave</NButton></p>
      </form>
    </ModalBox>
    <ConfirmRemoval v-if="removing" :ids="removing" @close="removing = null" />
  </PageShell>
</template>
