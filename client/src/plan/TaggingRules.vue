<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { change, newId } from '../shared/api/records'
import { count } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Action, Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'

/** The rules that give tags to every record their condition holds for; each is tried on the project while it is written. */
type Rule = Schemas['RuleView']
const store = useStore()
const attempt = useDo()
const may = computed(() => store.may('engineer'))
const { value: rules } = useShown('/tags/rules', () => ({}), ['taggingRule', 'place', 'equipment', 'point'])
const chosen = ref<string | null>(null)
const editing = ref<{ id: string; name: string; condition: string; gives: string; order: number; revision: number } | null>(null)
const removing = ref<string[] | null>(null)
const trial = ref<Schemas['RuleTrialAnswer'] | null>(null)
const say = (r: Rule) =>
  Object.entries(r.rule.gives)
    .map(([name, value]) => (value === 'M' ? name : `${name}:${value}`))
    .join(' ')
function edit(r?: Rule) {
  const order = (rules.value?.length ?? 0) + 1
  editing.value = r
    ? { id: r.rule.id, name: r.rule.name, condition: r.rule.condition, gives: say(r), order: r.rule.order ?? 0, revision: r.revision }
    : { id: newId('rule'), name: '', condition: 'record is "point" and name contains ""', gives: '', order, revision: 0 }
}
const tryIt = useDebounceFn(async (condition: string | undefined) => {
  trial.value = condition ? await post('/tags/rules/try', { body: { condition } }).catch(() => null) : null
}, 200)
watch(() => editing.value?.condition, tryIt)
async function save() {
  const { id, name, condition, order, revision, gives } = editing.value!
  const given = gives.split(/\s+/).filter(Boolean).map((g) => [g.split(':')[0]!, g.includes(':') ? g.slice(g.indexOf(':') + 1) : 'M']) // prettier-ignore
  const put = { type: 'taggingRule', id, name: name.trim(), condition, gives: Object.fromEntries(given), order }
  if (await attempt(() => change([{ put: put as never, from: revision }]), 'Rule saved; it runs from now on')) editing.value = null
}
const columns: Column<Rule>[] = [
  { key: 'name', title: 'Rule', sort: (r) => r.rule.name },
  { key: 'condition', title: 'When' },
  { key: 'gives', title: 'Gives' },
  { key: 'records', title: 'Records', width: 90, isNumber: true, sort: (r) => r.records ?? 0 },
]
const actions = computed<Action<Rule>[]>(() =>
  may.value
    ? [
        { label: 'Change…', run: ([r]) => edit(r!), key: 'F2' },
        { label: 'Remove…', run: (rows) => (removing.value = rows.map((r) => r.rule.id)), many: true, key: 'Delete' },
      ]
    : [],
)
</script>

<template>
  <EmptyState v-if="rules && !rules.length" title="No rule yet">
    A rule gives tags to every record its condition holds for, now and after every edit.
    <template v-if="may" #next><NButton type="primary" @click="edit()">Add a rule…</NButton></template>
  </EmptyState>
  <RecordTable
    v-else-if="rules"
    v-model:chosen="chosen"
    :rows="rules"
    :columns="columns"
    :id="(r) => r.rule.id"
    noun="rule"
    plural="rules"
    :words="(r) => `${r.rule.name} ${r.rule.condition}`"
    :actions="actions"
  >
    <template #tools><NButton v-if="may" size="small" @click="edit()">Add a rule…</NButton></template>
    <template #name="{ row: r }"
      ><b>{{ r.rule.name }}</b></template
    >
    <template #condition="{ row: r }"
      ><span class="mono">{{ r.rule.condition }}</span></template
    >
    <template #gives="{ row: r }"
      ><span class="mono">{{ say(r) }}</span></template
    >
    <template #records="{ row: r }">{{ count(r.records) }}</template>
  </RecordTable>
  <ModalBox v-if="editing" label="A tagging rule" wide @close="editing = null">
    <form class="editor" @submit.prevent="save">
      <h2>{{ editing.revision ? 'Change the rule' : 'Add a rule' }}</h2>
      <label class="row"><span>Name</span><TextBox v-model="editing.name" required maxlength="80" /></label>
      <label class="row"><span>When</span><TextBox v-model="editing.condition" mono spellcheck="false" required aria-label="Condition" /></label>
      <p v-if="trial?.error" class="wrong">character {{ (trial.errorAt ?? 0) + 1 }}: {{ trial.error }}</p>
      <p v-else-if="trial" class="dim">
        Holds for {{ count(trial.count) }} records{{
          trial.hits.length
            ? `: ${trial.hits
                .slice(0, 5)
                .map((h) => h.name)
                .join(', ')}`
            : ''
        }}{{ trial.count > 5 ? ' …' : '' }}
      </p>
      <label class="row"><span>Gives</span><TextBox v-model="editing.gives" mono placeholder="zone air" required aria-label="Tags it gives" /></label>
      <p class="dim">
        Fields: name, record, kind, role, unit, description, place, equipment, equipmentKind; is, contains, begins, matches with * and ?; has tag; and, or, not.
      </p>
      <p class="acts">
        <NButton type="primary" attr-type="submit" :disabled="!!trial?.error">Save the rule</NButton><NButton @click="editing = null">Leave</NButton>
      </p>
    </form>
  </ModalBox>
  <ConfirmRemoval v-if="removing" :ids="removing" @close="removing = null" />
</template>

<style scoped>
.editor .row {
  grid-template-columns: 60px 1fr;
}
</style>
