<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Schemas } from '../shared/api/http'

/** What varies from one placement of a template to the next: its parameters, and the values that could become one. */
const props = defineProps<{ view: Schemas['TemplateView'] }>()
const emit = defineEmits<{ save: [patch: Partial<Schemas['Template']>, done: string] }>()
type Parameter = Schemas['TemplateParameter']
const t = computed(() => props.view.template)
const next = computed(() => (t.value.revision ?? 0) + 1)
const draft = ref<Parameter[] | null>(null)
const words = ref('')
watch(
  () => props.view,
  () => (draft.value = null),
)
const kinds: Schemas['ParameterKind'][] = ['number', 'text', 'choice']
const edit = () => (draft.value = JSON.parse(JSON.stringify(t.value.parameters ?? [])) as Parameter[])
/** Values of the template that are not parameters yet. */
const fixed = computed(() => props.view.variables.filter((v) => !t.value.bindings?.some((b) => b.record === v.record && b.path === v.path)))
const shown = computed(() => fixed.value.filter((v) => v.words.toLowerCase().includes(words.value.toLowerCase())).slice(0, 40))
function vary(v: Schemas['Variable']) {
  const taken = new Set((t.value.parameters ?? []).map((p) => p.name))
  let n = taken.size + 1
  while (taken.has(`p${n}`)) n++
  const parameter = { name: `p${n}`, label: v.words.split(' › ').slice(-2).join(' '), kind: v.kind, default: v.value, unit: v.unit }
  emit(
    'save',
    {
      comment: `${parameter.label} varies`,
      parameters: [...(t.value.parameters ?? []), parameter],
      bindings: [...(t.value.bindings ?? []), { record: v.record, path: v.path, parameter: parameter.name }],
    },
    `Revision ${next.value}: ${parameter.label} is a parameter now`,
  )
}
function save() {
  const kept = new Set(draft.value!.map((p) => p.name))
  const only = <T,>(kind: Schemas['ParameterKind'], p: Parameter, value: T) => (p.kind === kind ? value : null)
  emit(
    'save',
    {
      comment: 'Parameters changed',
      parameters: draft.value!.map((p) => ({
        ...p,
        choices: only('choice', p, p.choices),
        low: only('number', p, p.low),
        high: only('number', p, p.high),
      })),
      bindings: (t.value.bindings ?? []).filter((b) => kept.has(b.parameter)),
    },
    `Revision ${next.value}`,
  )
}
</script>

<template>
  <template v-if="t.parameters?.length">
    <h3>Parameters <NButton v-if="!draft" id="edit-parameters" size="small" @click="edit">Change them</NButton></h3>
    <form v-if="draft" class="parameters" @submit.prevent="save">
      <div v-for="(p, i) in draft" :key="p.name" class="bar">
        <p class="acts">
          <TextBox v-model="p.label" :aria-label="`Label of ${p.name}`" required maxlength="80" style="width: 180px" />
          <PickOne v-model="p.kind" :options="kinds" :aria-label="`Kind of ${p.label}`" style="width: 100px" />
          <NButton size="small" quaternary :aria-label="`${p.label} varies no longer`" @click="draft!.splice(i, 1)">✕</NButton>
        </p>
        <p class="acts">
          <span>default</span><TextBox v-model="p.default" mono style="width: 90px" :aria-label="`Default of ${p.label}`" />
          <template v-if="p.kind === 'number'"
            ><span>unit</span><TextBox v-model="p.unit" mono style="width: 62px" :aria-label="`Unit of ${p.label}`" /><span>from</span
            ><NumberBox v-model="p.low" :width="62" :aria-label="`Lowest ${p.label}`" /><span>to</span
            ><NumberBox v-model="p.high" :width="62" :aria-label="`Highest ${p.label}`" />
          </template>
          <template v-if="p.kind === 'choice'"
            ><span>one of</span
            ><TextBox
              lazy
              :model-value="(p.choices ?? []).join(', ')"
              :aria-label="`Choices of ${p.label}`"
              @update:model-value="(v: string) => (p.choices = v.split(/\s*,\s*/).filter(Boolean))"
          /></template>
        </p>
      </div>
      <p class="acts">
        <NButton type="primary" size="small" attr-type="submit">Save as revision {{ next }}</NButton
        ><NButton size="small" @click="draft = null">Leave</NButton>
      </p>
    </form>
  </template>
  <template v-if="fixed.length">
    <h3 class="acts">
      What could vary <TextBox v-model="words" size="small" placeholder="words" aria-label="Words of what could vary" style="width: 130px" />
    </h3>
    <p v-for="v in shown" :key="v.record + v.path" class="vary">
      <span
        >{{ v.words }} <span class="mono">{{ v.value }} {{ v.unit }}</span></span
      >
      <NButton size="small" :data-vary="v.path" @click="vary(v)">Make it a parameter</NButton>
    </p>
  </template>
</template>

<style scoped>
.parameters {
  display: grid;
  gap: 6px;
}
.vary {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  align-items: center;
}
</style>
