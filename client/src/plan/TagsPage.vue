<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { api, get, post, send, type Schemas } from '../shared/api/http'
import { change, newId } from '../shared/api/records'
import { useLoaded, useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import PlanTabs from './PlanTabs.vue'

const store = useStore()
const route = useRoute()
const attempt = useDo()
const query = ref((route.query.q as string) ?? 'point and temp and sensor')
const box = ref<HTMLInputElement>()
const { value: definitions } = useLoaded<Schemas['Definition'][]>(() => get('/tags/definitions'), undefined, [])
const { value: answer } = useLoaded<Schemas['FilterAnswer']>(
  () => get(`/tags/filter?q=${encodeURIComponent(query.value)}`),
  () => query.value,
  ['place', 'equipment', 'point', 'taggingRule'],
)
const { value: rules } = useLoaded<Schemas['RuleView'][]>(() => get('/tags/rules'), undefined, ['taggingRule', 'place', 'equipment', 'point'])
const word = computed(() => /[a-zA-Z0-9_]*$/.exec(query.value)?.[0] ?? '')
const completions = computed(() =>
  word.value ? (definitions.value ?? []).filter((d) => d.name.startsWith(word.value) && d.name !== word.value).slice(0, 8) : [],
)
function complete(name: string) {
  query.value = query.value.slice(0, query.value.length - word.value.length) + name + ' '
  box.value?.focus()
}
/** A tagged model that is looked at before it is taken. */
const model = ref<{ blob: File; view: Schemas['ModelView'] } | null>(null)
async function read(input: HTMLInputElement) {
  const blob = input.files?.[0]
  if (blob) await attempt(async () => (model.value = { blob, view: await send<Schemas['ModelView']>('/tags/model', blob) }))
  input.value = ''
}
async function take() {
  if (await attempt(() => send('/tags/model?take=true', model.value!.blob), 'Taken as one change; undo brings back what was')) model.value = null
}
const sign: Record<string, string> = { adds: '+ adds', changes: '~ changes', 'left out': '✕ left out' }
const editing = ref<{ id: string; name: string; condition: string; gives: string; order: number; revision: number } | null>(null)
const trial = ref<Schemas['RuleTrialAnswer'] | null>(null)
watch(
  () => editing.value?.condition,
  async (c) => (trial.value = c ? await post<Schemas['RuleTrialAnswer']>('/tags/rules/try', { condition: c }) : null),
)
function edit(r?: Schemas['RuleView']) {
  editing.value = r
    ? {
        id: r.rule.id,
        name: r.rule.name,
        condition: r.rule.condition,
        gives: Object.entries(r.rule.gives)
          .map(([n, v]) => (v === 'M' ? n : `${n}:${v}`))
          .join(' '),
        order: Number(r.rule.order),
        revision: Number(r.revision),
      }
    : { id: newId('rule'), name: '', condition: 'record is "point" and name contains ""', gives: '', order: (rules.value?.length ?? 0) + 1, revision: 0 }
}
async function save() {
  const e = editing.value!
  const gives = Object.fromEntries(
    e.gives
      .split(/\s+/)
      .filter(Boolean)
      .map((g) => [g.split(':')[0]!, g.includes(':') ? g.slice(g.indexOf(':') + 1) : 'M']),
  )
  const rule = { type: 'taggingRule', id: e.id, name: e.name.trim(), condition: e.condition, gives, order: e.order }
  if (await attempt(() => change([{ put: rule as never, from: e.revision }]), 'Rule saved; it runs from now on')) editing.value = null
}
const remove = (r: Schemas['RuleView']) => attempt(() => change([{ remove: r.rule.id, from: r.revision } as never]), `Removed ${r.rule.name}`)
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Tags</h1>
      <span class="dim">of Project Haystack</span><span class="space" /><span class="dim">Model as</span
      ><a v-for="f in ['zinc', 'trio', 'json', 'brick']" :key="f" class="btn small" :href="api(`/tags/export?form=${f}`)" download>{{ f }}</a
      ><label v-if="store.may('engineer')" class="btn small"
        >Read a model<input id="model-file" type="file" class="hidden" @change="read($event.target as HTMLInputElement)" /></label
      ><PlanTabs />
    </div>
    <div v-if="model" class="sheet" role="dialog" aria-label="The model">
      <h2>{{ model.blob.name }}</h2>
      <p>
        Adds {{ model.view.adds }}, changes {{ model.view.changes }}, finds {{ model.view.same }} as they are<span v-if="model.view.leftOut" class="wrong"
          >, leaves out {{ model.view.leftOut }}</span
        >.
      </p>
      <p v-for="r in model.view.refusals.slice(0, 8)" :key="r" class="bar high">✕ {{ r }}</p>
      <div class="lines">
        <table class="grid">
          <tbody>
            <tr v-for="(l, i) in model.view.lines" :key="i">
              <td :class="{ wrong: l.verdict === 'left out' }" style="white-space: nowrap">{{ sign[l.verdict] }}</td>
              <td class="dim">{{ l.noun }}</td>
              <td>{{ l.name }}</td>
              <td class="dim">{{ l.why }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <p>
        <button
          id="take-model"
          class="btn main"
          :disabled="!!model.view.refusals.length || !(Number(model.view.adds) + Number(model.view.changes))"
          @click="take"
        >
          Take {{ Number(model.view.adds) + Number(model.view.changes) }}</button
        >&nbsp;<button class="btn" @click="model = null">Leave</button>
      </p>
    </div>
    <div class="sheet">
      <label class="search"
        ><span class="dim">Filter</span
        ><input
          id="filter"
          ref="box"
          v-model="query"
          class="field mono"
          spellcheck="false"
          aria-label="Filter"
          @keydown.tab="completions[0] && ($event.preventDefault(), complete(completions[0].name))"
      /></label>
      <p v-if="answer?.error" class="wrong mono error">
        {{ ' '.repeat(Number(answer.errorAt)) }}▲<br /><span class="sans">character {{ Number(answer.errorAt) + 1 }}: {{ answer.error }}</span>
      </p>
      <p class="completions">
        <button v-for="d in completions" :key="d.name" class="pill" :title="d.meaning" @click="complete(d.name)">
          {{ d.name }} <span class="dim">{{ d.meaning }}</span>
        </button>
        <span v-if="!completions.length" class="dim"
          ><code>point and temp</code> · <code>not sensor</code> · <code>spaceRef->area &gt; 30m²</code> · <code>unit == "°C"</code> ·
          <kbd>Tab</kbd> completes</span
        >
      </p>
    </div>
    <div v-if="answer && !answer.error" class="two">
      <div class="sheet">
        <h2>{{ answer.count }} match</h2>
        <table class="grid">
          <tbody>
            <tr v-for="h in answer.hits" :key="h.id">
              <td>
                <button class="link" @click="store.selected = h.id">{{ h.name }}</button>
              </td>
              <td class="dim">{{ h.noun }}</td>
              <td class="dim">{{ h.path }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="answer.count > answer.hits.length" class="dim">The first {{ answer.hits.length }} are shown.</p>
      </div>
      <div class="sheet">
        <h2>{{ answer.nearCount }} are one term short</h2>
        <table class="grid">
          <tbody>
            <tr v-for="h in answer.near" :key="h.id">
              <td>
                <button class="link" @click="store.selected = h.id">{{ h.name }}</button>
              </td>
              <td>
                <span class="pill amber mono">{{ h.short }}</span>
              </td>
              <td class="dim">{{ h.path }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </div>
    <div class="head">
      <h2>Tagging rules</h2>
      <span class="pill">{{ rules?.length ?? 0 }}</span><span class="space" />
      <template v-if="store.may('engineer')">
        <button v-if="rules && !rules.length" id="starter-rules" class="btn" @click="attempt(() => post('/tags/rules/starter'), 'Starter rules added')">
          Add the starter rules
        </button>
        <button class="btn main" @click="edit()">Add a rule…</button>
      </template>
    </div>
    <form v-if="editing" class="sheet editor" @submit.prevent="save">
      <label class="row"><span>Name</span><input v-model="editing.name" class="field" required maxlength="80" /></label>
      <label class="row"><span>When</span><input v-model="editing.condition" class="field mono" spellcheck="false" required aria-label="Condition" /></label>
      <p v-if="trial?.error" class="wrong">character {{ Number(trial.errorAt) + 1 }}: {{ trial.error }}</p>
      <p v-else-if="trial" class="dim">
        Holds for {{ trial.count }} records{{
          trial.hits.length
            ? `: ${trial.hits
                .slice(0, 5)
                .map((h) => h.name)
                .join(', ')}${trial.count > 5 ? ' …' : ''}`
            : ''
        }}
      </p>
      <label class="row"
        ><span>Gives</span><input v-model="editing.gives" class="field mono" placeholder="zone air" required aria-label="Tags it gives"
      /></label>
      <p class="dim">
        Fields: name, record, kind, role, unit, description, place, equipment, equipmentKind; is, contains, begins, matches with * and ?; has tag; and, or, not.
      </p>
      <p><button class="btn main" :disabled="!!trial?.error">Save the rule</button> <button type="button" class="btn" @click="editing = null">Leave</button></p>
    </form>
    <table v-if="rules?.length" class="grid sheet">
      <thead>
        <tr>
          <th>Rule</th>
          <th>When</th>
          <th>Gives</th>
          <th class="num">Records</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rules" :key="r.rule.id">
          <td>
            <b>{{ r.rule.name }}</b>
          </td>
          <td class="mono">{{ r.rule.condition }}</td>
          <td class="mono">
            {{
              Object.entries(r.rule.gives)
                .map(([n, v]) => (v === 'M' ? n : `${n}:${v}`))
                .join(' ')
            }}
          </td>
          <td class="num">{{ r.records }}</td>
          <td style="white-space: nowrap">
            <template v-if="store.may('engineer')"
              ><button class="btn small" @click="edit(r)">Change</button> <button class="btn small" @click="remove(r)">Remove</button></template
            >
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else class="dim">No rule yet. A rule gives tags to every record its condition holds for, now and after every edit.</p>
  </div>
</template>

<style scoped>
.lines {
  max-height: 300px;
  overflow: auto;
}
.hidden {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}
.search {
  display: grid;
  grid-template-columns: 60px 1fr;
  align-items: center;
}
.error {
  white-space: pre;
  margin-left: 68px;
}
.error .sans {
  font-family: var(--sans);
  white-space: normal;
}
.completions {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
  margin: 6px 0 0 60px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.two > * {
  overflow: auto;
  max-height: 330px;
}
.editor .row {
  grid-template-columns: 60px 1fr;
}
@media (max-width: 700px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
