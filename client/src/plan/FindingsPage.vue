<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { get, post, type Schemas } from '../shared/api/http'
import { change } from '../shared/api/records'
import { useLoaded, useStore } from '../shared/store'
import { count } from '../shared/numbers'
import { useDo } from '../shared/useDo'
import PlanTabs from './PlanTabs.vue'

type FindingView = Schemas['FindingView']
const store = useStore()
const router = useRouter()
const attempt = useDo()
const mark: Record<string, string> = { high: '✕ high', medium: '▲ medium', low: '● low' }
const severity = ref('all')
const words = ref('')
const { value: view } = useLoaded<Schemas['FindingsView']>(
  () => get(`/findings?show=${severity.value}&words=${encodeURIComponent(words.value)}`),
  () => [severity.value, words.value],
  'all',
)
const shown = computed(() => view.value?.findings ?? [])
const of = (s: string) => Number(view.value?.[s as 'high' | 'medium' | 'low'] ?? 0)
const picked = ref<string | null>(null)
const reason = ref('')
const detail = computed(() => shown.value.find((f) => f.key === picked.value) ?? null)
function open(f: FindingView) {
  const page = store.pageOf(f.noun, f.recordId)
  if (page) void router.push(page)
  else store.selected = f.recordId
}
async function silence(f: FindingView) {
  if (await attempt(() => post('/findings/silence', { key: f.key, recordId: f.recordId, reason: reason.value }), 'Silenced; it stays listed under Silenced')) {
    reason.value = ''
    picked.value = null
  }
}
const lift = (f: FindingView) => attempt(() => change([{ remove: f.silenceId } as never], `Lifted the silence on “${f.what}”`), 'It speaks again')
const fix = (f: FindingView, which: number) =>
  attempt(() => post('/findings/fix', { key: f.key, recordId: f.recordId, which, label: f.fixes[which]?.label }), f.fixes[which]?.label)
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Findings</h1>
      <span class="tabs"
        ><button :class="{ on: severity === 'all' }" @click="severity = 'all'">All {{ count(view?.all) }}</button
        ><button v-for="s in ['high', 'medium', 'low']" :key="s" :class="{ on: severity === s }" @click="severity = s">{{ mark[s] }} {{ count(of(s)) }}</button
        ><button :class="{ on: severity === 'silenced' }" @click="severity = 'silenced'">Silenced {{ count(view?.silenced) }}</button></span
      >
      <input v-model.lazy="words" class="field" placeholder="words" aria-label="Find a finding" />
      <span class="space" /><PlanTabs />
    </div>
    <div v-if="view && !shown.length" class="sheet empty">
      {{ severity === 'all' && !words ? '✓ Nothing to mend. Every check passes.' : 'None of these.' }}
    </div>
    <p v-if="view && view.matching > shown.length" class="dim">
      The gravest {{ shown.length }} of {{ count(view.matching) }} are shown; words narrow them down.
    </p>
    <div v-if="shown.length" class="two">
      <table class="grid sheet">
        <thead>
          <tr>
            <th>Severity</th>
            <th>What</th>
            <th>Where</th>
            <th>Since</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="f in shown"
            :key="f.key"
            tabindex="0"
            :class="{ sel: f.key === picked }"
            @click="picked = f.key"
            @focus="picked = f.key"
            @keydown.enter="open(f)"
          >
            <td :class="{ wrong: f.severity === 'high' }" style="white-space: nowrap">{{ mark[f.severity] }}</td>
            <td>
              <b>{{ f.what }}</b>
            </td>
            <td>{{ f.path }}</td>
            <td :title="f.sinceLabel ?? ''" class="dim">
              {{ f.since }}{{ f.sinceLabel ? ` · ${f.sinceLabel.slice(0, 36)}${f.sinceLabel.length > 36 ? '…' : ''}` : '' }}
            </td>
          </tr>
        </tbody>
      </table>
      <aside class="sheet" aria-label="The finding">
        <template v-if="detail">
          <h2>{{ detail.what }}</h2>
          <p class="dim">{{ detail.path }}</p>
          <p class="bar" :class="detail.severity">{{ detail.why }}</p>
          <p class="dim">Since revision {{ detail.since }}{{ detail.sinceLabel ? `, “${detail.sinceLabel}”` : '' }}</p>
          <h3 v-if="detail.fixes.length">Mend at one click</h3>
          <div v-for="(f, i) in detail.fixes" :key="f.label">
            <p>{{ f.label }}</p>
            <p v-for="d in f.does" :key="d" class="mono tiny">{{ d }}</p>
            <button v-if="store.may('engineer')" class="btn" :class="{ main: i === 0 }" @click="fix(detail, i)">Do it</button>
          </div>
          <p class="acts">
            <button class="btn" @click="open(detail)">Show <kbd>↵</kbd></button>
          </p>
          <template v-if="detail.silenced">
            <p class="bar">
              “{{ detail.silenced }}” <span class="dim">says {{ detail.silencedBy }}</span>
            </p>
            <button v-if="store.may('engineer')" class="btn" @click="lift(detail)">Let it speak again</button>
          </template>
          <form v-else-if="store.may('engineer')" class="silence" @submit.prevent="silence(detail)">
            <h3>Silence it</h3>
            <input v-model="reason" class="field" placeholder="why it may stand" aria-label="Why it may stand" maxlength="400" required />
            <button class="btn small">Silence</button>
          </form>
        </template>
        <p v-else class="dim">
          Choose a finding to see why it matters and what would mend it. Checks run with every edit, on what the edit could have touched.
        </p>
      </aside>
    </div>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 330px;
  gap: 12px;
  align-items: start;
}
aside {
  display: grid;
  gap: 8px;
  position: sticky;
  top: 0;
}
tr {
  cursor: pointer;
}
.tiny {
  font-size: 12.5px;
}
.silence {
  display: grid;
  gap: 6px;
  border-top: 1px solid var(--rule);
  padding-top: 8px;
}
@media (max-width: 700px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
