<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { useShown } from '../shared/api/cache'
import { api, post, type Schemas } from '../shared/api/http'
import TagTable from '../shared/dossier/TagTable.vue'
import { count } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Column } from '../shared/ui/records'
import TextBox from '../shared/ui/TextBox.vue'
import { useDo } from '../shared/useDo'
import TaggingRules from './TaggingRules.vue'

type Hit = Schemas['FilterHit']
const store = useStore()
const route = useRoute()
const attempt = useDo()
const query = ref((route.query.q as string) ?? 'point and temp and sensor')
const box = ref<InstanceType<typeof TextBox>>()
const { value: definitions } = useShown('/tags/definitions', () => ({}), 'fixed')
const { value: answer } = useShown('/tags/filter', () => ({ query: { q: query.value } }), ['place', 'equipment', 'point', 'taggingRule'])
const { value: rules } = useShown('/tags/rules', () => ({}), ['taggingRule', 'place', 'equipment', 'point'])
const word = computed(() => /[a-zA-Z0-9_]*$/.exec(query.value)?.[0] ?? '')
const completions = computed(() =>
  word.value ? (definitions.value ?? []).filter((d) => d.name.startsWith(word.value) && d.name !== word.value).slice(0, 8) : [],
)
function complete(name: string) {
  query.value = query.value.slice(0, query.value.length - word.value.length) + name + ' '
  box.value?.focus()
}
function tab(e: KeyboardEvent) {
  if (!completions.value[0] || e.shiftKey) return
  e.preventDefault()
  complete(completions.value[0].name)
}
/** A tagged model that is looked at before it is taken. */
const model = ref<{ blob: File; view: Schemas['ModelView'] } | null>(null)
const read = (blob: File) => attempt(async () => (model.value = { blob, view: await post('/tags/model', { body: blob }) }))
async function take() {
  if (await attempt(() => post('/tags/model', { query: { take: true }, body: model.value!.blob }), 'Taken as one change; undo brings back what was'))
    model.value = null
}
const taken = computed(() => (model.value?.view.adds ?? 0) + (model.value?.view.changes ?? 0))
const signs: Record<string, string> = { adds: '+ adds', changes: '~ changes', 'left out': '✕ left out' }
const view = ref('match')
const views = computed(() => [
  { value: 'match', label: `${count(answer.value?.count)} match` },
  { value: 'near', label: `${count(answer.value?.nearCount)} are one term short` },
  { value: 'rules', label: `${count(rules.value?.length)} rules` },
])
const rows = computed(() => (view.value === 'near' ? answer.value?.near : answer.value?.hits) ?? [])
const columns = computed<Column<Hit>[]>(() => [
  { key: 'name', title: 'Name', sort: (h) => h.name },
  { key: 'noun', title: 'Sort', width: 120, sort: (h) => h.noun },
  ...(view.value === 'near' ? [{ key: 'short', title: 'Lacks', width: 180 }] : []),
  { key: 'path', title: 'Where', sort: (h) => h.path },
])
</script>

<template>
  <PageShell lede="of Project Haystack">
    <template #actions>
      <NButton
        v-if="rules && !rules.length && store.may('engineer')"
        id="starter-rules"
        type="primary"
        @click="attempt(() => post('/tags/rules/starter'), 'Starter rules added')"
        >Add the starter rules</NButton
      >
      <span class="dim">Model as</span>
      <LinkButton v-for="f in ['zinc', 'trio', 'json', 'brick']" :key="f" size="small" :href="api(`/tags/export?form=${f}`)">{{ f }}</LinkButton>
      <FilePick v-if="store.may('engineer')" label="Read a model" input-id="model-file" size="small" @choose="read" />
    </template>
    <div class="sheet">
      <label class="search"
        ><span class="dim">Filter</span><TextBox id="filter" ref="box" v-model="query" mono spellcheck="false" aria-label="Filter" @keydown.tab="tab"
      /></label>
      <p v-if="answer?.error" class="wrong mono error">
        {{ ' '.repeat(answer.errorAt ?? 0) }}▲<br /><span class="sans">character {{ (answer.errorAt ?? 0) + 1 }}: {{ answer.error }}</span>
      </p>
      <p class="completions">
        <NButton v-for="d in completions" :key="d.name" size="small" round :title="d.meaning" @click="complete(d.name)">
          {{ d.name }} <span class="dim">&nbsp;{{ d.meaning }}</span>
        </NButton>
        <span v-if="!completions.length" class="dim"
          ><code>point and temp</code> · <code>not sensor</code> · <code>spaceRef->area &gt; 30m²</code> · <code>unit == "°C"</code> ·
          <kbd>Tab</kbd> completes</span
        >
      </p>
    </div>
    <ChooseOne v-model="view" :options="views" label="What of the tags" />
    <TaggingRules v-if="view === 'rules'" />
    <template v-else-if="answer && !answer.error">
      <EmptyState v-if="!rows.length" title="Nothing of that">No record has these tags. Take a term off, or look at what is one term short.</EmptyState>
      <RecordTable v-else :rows="rows" :columns="columns" :id="(h) => h.id" noun="record" plural="records" :words="(h) => `${h.name} ${h.path}`">
        <template #name="{ row: h }"
          ><NButton text type="info" @click="store.selected = h.id">{{ h.name }}</NButton></template
        >
        <template #short="{ row: h }"
          ><FactTag tone="amber" mono>{{ h.short }}</FactTag></template
        >
        <template #path="{ row: h }"
          ><span class="dim">{{ h.path }}</span></template
        >
        <template #details="{ row: h }">
          <h2>{{ h.name }}</h2>
          <p class="dim">{{ h.path }}</p>
          <TagTable :id="h.id" />
        </template>
      </RecordTable>
      <p v-if="view === 'match' && answer.count > answer.hits.length" class="dim">The first {{ answer.hits.length }} are shown.</p>
    </template>
    <ModalBox v-if="model" label="The model" wide @close="model = null">
      <h2>{{ model.blob.name }}</h2>
      <p>
        Adds {{ model.view.adds }}, changes {{ model.view.changes }}, finds {{ model.view.same }} as they are<span v-if="model.view.leftOut" class="wrong"
          >, leaves out {{ model.view.leftOut }}</span
        >.
      </p>
      <p v-for="r in model.view.refusals.slice(0, 8)" :key="r" class="bar high">✕ {{ r }}</p>
      <div class="lines">
        <p v-for="(l, i) in model.view.lines" :key="i">
          <span :class="{ wrong: l.verdict === 'left out' }">{{ signs[l.verdict] }}</span> <span class="dim">{{ l.noun }}</span> {{ l.name }}
          <span class="dim">{{ l.why }}</span>
        </p>
      </div>
      <p class="acts">
        <NButton id="take-model" type="primary" :disabled="!!model.view.refusals.length || !taken" @click="take">Take {{ taken }}</NButton
        ><NButton @click="model = null">Leave</NButton>
      </p>
    </ModalBox>
  </PageShell>
</template>

<style scoped>
.lines {
  max-height: 300px;
  overflow: auto;
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
</style>
