<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { newId, type Point } from '../api/records'
import { get, post, type Schemas } from '../api/http'
import BecauseTree from '../BecauseTree.vue'
import LiveText from '../LiveText.vue'
import { useLive, useLoaded, useStore } from '../store'
import { useDo } from '../useDo'
import HoldBox from './HoldBox.vue'
import LadderBox from './LadderBox.vue'
import PastBox from './PastBox.vue'
import PlacementBox from './PlacementBox.vue'
import PropertiesBox from './PropertiesBox.vue'
import TagsBox from './TagsBox.vue'

/** The side panel of one record: what it is, now, why, used by. */
const props = defineProps<{ id: string }>()
const store = useStore()
const router = useRouter()
const attempt = useDo()
const holding = ref(false)
const { value: dossier, problem } = useLoaded<Schemas['Dossier']>(() => get(`/records/${props.id}`), undefined, 'all')
const record = computed(() => dossier.value?.record as { type: string; name: string; kind?: string } | undefined)
const point = computed(() => (record.value?.type === 'point' ? (record.value as unknown as Point) : null))
const isAlarm = computed(() => record.value?.type === 'alarm')
/** A place or equipment: it holds points, and answers for all of them. */
const isHolder = computed(() => ['place', 'equipment'].includes(record.value?.type ?? ''))
const minute = computed(() => Math.floor((store.clock?.now ?? 0) / 60000))
const { value: why } = useLoaded<Schemas['Because']>(
  () => (point.value || isAlarm.value || isHolder.value ? get(`/why/${props.id}`) : null),
  () => [props.id, record.value?.type, store.live.get(`p:${props.id}`)?.text, store.eventsTick, minute.value],
  ['point', 'equipment', 'place', 'alarm', 'fitting', 'controller'],
)
const { value: rows } = useLoaded<Schemas['GridRow'][]>(
  () => (isHolder.value ? get<Schemas['GridPage']>(`/grid/point?scope=${props.id}&count=60`).then((p) => p.rows) : null),
  () => record.value,
  ['point', 'place', 'equipment', 'fitting'],
)
useLive(() => (point.value ? [`p:${props.id}`] : (rows.value ?? []).map((r) => `p:${r.id}`)))
const trendIds = computed(() => dossier.value?.trends.join(',') ?? '')
const isHeld = computed(() => store.held.some((h) => h.pointId === props.id))
const trend = computed(() => dossier.value?.usedBy.find((u) => u.noun === 'trend'))
const canHold = computed(() => point.value && (point.value.role === 'sensor' ? store.may('technician') : store.may('operator')))

function openUse(use: Schemas['UsedBy']) {
  const page = store.pageOf(use.noun, use.id)
  if (page) void router.push(page)
  else store.selected = use.id
}
async function trendIt() {
  if (trend.value) return openUse(trend.value)
  const p = point.value!
  const id = newId('trend')
  const done = await attempt(
    () => post('/cells', { cells: [{ id, kind: 'trend', ownerId: p.id, field: 'name', text: p.name, from: 0 }] }),
    `Added a trend of ${p.name}; send its controller to start it`,
  )
  if (done) await router.push(`/supervise/trends?show=${id}`)
}
</script>

<template>
  <aside class="dossier" aria-label="Dossier">
    <p v-if="problem" class="wrong">{{ problem }}</p>
    <template v-if="dossier && record">
      <div class="top">
        <span class="dim">{{ dossier.noun }} · {{ dossier.path }}</span
        ><span class="space" /><button class="btn small" aria-label="Close the dossier" @click="store.selected = null">✕</button>
      </div>
      <h2 class="name">{{ record.name }}</h2>
      <template v-if="point">
        <p class="big"><LiveText :id="`p:${id}`" /></p>
        <p class="dim">{{ point.kind }} {{ point.role }}{{ point.description ? ` · ${point.description}` : '' }}</p>
        <p v-if="dossier.networkName" class="dim" title="The name networks show; derived by the naming convention">
          network name <span class="mono">{{ dossier.networkName }}</span>
        </p>
      </template>
      <p v-if="point" class="acts">
        <button v-if="canHold" class="btn small" data-act="hold" @click="holding = true">
          {{ isHeld ? 'Hold at another value…' : point.role === 'sensor' ? 'Set by hand…' : 'Hold by hand…' }}
        </button>
        <button v-if="isHeld && store.may('operator')" class="btn small main" @click="attempt(() => post('/held/release', { pointId: id }), 'Released')">
          Release
        </button>
        <button v-if="trend || store.may('engineer')" class="btn small" @click="trendIt">{{ trend ? 'Show trend' : 'Trend it' }}</button>
      </p>
      <PropertiesBox v-if="store.may('engineer') && dossier.fields.length" :id="id" :fields="dossier.fields" :revision="Number(dossier.revision)" />
      <HoldBox v-if="holding && point" :point="point" @done="holding = false" />
      <template v-if="why && !isHolder">
        <h3>Why?</h3>
        <BecauseTree :because="why" />
      </template>
      <template v-if="point && point.role !== 'sensor'">
        <h3>Claim ladder</h3>
        <LadderBox :point-id="id" />
      </template>
      <template v-if="rows?.length">
        <h3>Points <RouterLink v-if="trendIds" class="btn small" :to="`/supervise/trends?show=${trendIds}`">Trends</RouterLink></h3>
        <table class="grid">
          <tbody>
            <tr v-for="r in rows" :key="r.id">
              <td>
                <button class="link" @click="store.selected = r.id">
                  <span v-if="r.ownerId !== id" class="dim">{{ r.owner }} · </span>{{ r.name }}
                </button>
              </td>
              <td class="num"><LiveText :id="`p:${r.id}`" /></td>
            </tr>
          </tbody>
        </table>
      </template>
      <template v-if="why && isHolder">
        <h3>Why?</h3>
        <BecauseTree v-for="(one, i) in why.under.length ? why.under : [why]" :key="i" :because="one" />
      </template>
      <template v-if="dossier.findings.length">
        <h3>Findings here</h3>
        <div v-for="f in dossier.findings" :key="f.key" class="bar" :class="f.severity">
          {{ f.what }} <span class="dim">{{ f.why }}</span>
          <button
            v-for="(way, i) in store.may('engineer') ? f.fixes : []"
            :key="way.label"
            class="btn small"
            @click="attempt(() => post('/findings/fix', { key: f.key, recordId: f.recordId, which: i, label: way.label }), way.label)"
          >
            {{ way.label }}
          </button>
        </div>
      </template>
      <PlacementBox
        v-if="['equipment', 'room', 'floor', 'building', 'controller'].includes(dossier.noun)"
        :id="id"
        :name="record.name"
        :controller="dossier.noun === 'controller'"
        :placed="!!(dossier.record as { placed?: object }).placed"
      />
      <TagsBox v-if="point || isHolder" :record="dossier.record as never" :type="record.type as never" :revision="Number(dossier.revision)" />
      <template v-if="dossier.usedBy.length">
        <h3>Used by</h3>
        <p class="uses">
          <button v-for="u in dossier.usedBy" :key="u.id" class="pill" :title="`${u.path} · ${u.as}`" @click="openUse(u)">{{ u.noun }}: {{ u.name }}</button>
        </p>
      </template>
      <p v-else-if="point" class="dim">Nothing uses it yet.</p>
      <PastBox :id="id" :revision="Number(dossier.revision)" />
    </template>
  </aside>
</template>

<style scoped>
.dossier {
  width: 320px;
  flex: none;
  background: var(--sheet);
  border-left: 1px solid var(--rule);
  padding: 12px 16px;
  overflow: auto;
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.top {
  display: flex;
  gap: 8px;
  align-items: flex-start;
}
.name {
  font-size: 19px;
}
.big {
  font-size: 23px;
  color: var(--plum);
}
.acts,
.uses {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
}
table.grid td {
  padding: 2px 4px;
  height: 26px;
}
@media (max-width: 700px) {
  .dossier {
    width: 100%;
    border-left: 0;
    border-top: 2px solid var(--plum);
    order: -1;
  }
}
</style>
