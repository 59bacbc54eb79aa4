<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../api/cache'
import { post, type Schemas } from '../api/http'
import { useDo } from '../useDo'
import CopyForm from './CopyForm.vue'
import type { Dossier } from './sections'

/** A record against the template it was placed from; taking it as a template; copying it. */
const props = defineProps<{ dossier: Dossier }>()
const attempt = useDo()
const record = computed(() => props.dossier.record as { id: string; name: string; placed?: object | null })
const path = computed(() => ({ id: record.value.id }))
const { value: view } = useShown('/placements/{id}', () => (record.value.placed ? { path: path.value } : null), 'all')
const { value: libraries } = useShown('/libraries', () => ({}), [])
const writable = computed(() => (libraries.value ?? []).filter((l) => l.canWrite).map((l) => ({ value: l.id, label: l.name })))
const giveUp = ref<string[]>([])
const doing = ref<'take' | 'copy' | null>(null)
const library = ref('')
const called = ref(record.value.name)
const left = ref<string[]>([])
const key = (d: Schemas['PlacementDifference']) => `${d.recordId}/${d.field}`
const update = () => attempt(() => post('/placements/{id}/update', { path: path.value, body: { giveUp: giveUp.value } }), 'Brought up to date')
function begin(what: 'take' | 'copy') {
  doing.value = doing.value === what ? null : what
  library.value = writable.value[0]?.value ?? ''
}
async function take() {
  const body = { recordId: record.value.id, libraryId: library.value, name: called.value, folder: null, comment: null }
  const done = await attempt(async () => (left.value = (await post('/templates/capture', { body })).left), 'Taken as a template; find it in the library')
  if (done && !left.value.length) doing.value = null
}
</script>

<template>
  <template v-if="view">
    <p>
      {{ view.templateName }}, revision {{ view.revision }}
      <FactTag v-if="view.newest > view.revision" tone="amber">revision {{ view.newest }} is there</FactTag>
      <FactTag v-else-if="view.canCompare && !view.differences.length" tone="moss">✓ as the template</FactTag>
    </p>
    <NCheckboxGroup v-model:value="giveUp">
      <p v-for="d in view.differences" :key="key(d)" class="bar" :class="d.isLocal ? 'decides' : 'medium'">
        {{ d.name }}, {{ d.words }}: {{ d.here ?? 'none' }}<span class="dim"> here, template {{ d.template ?? 'none' }}</span
        ><br />
        <NCheckbox v-if="d.isLocal" :value="key(d)">give up what was changed here</NCheckbox>
      </p>
    </NCheckboxGroup>
  </template>
  <p class="acts">
    <template v-if="view">
      <NButton v-if="view.differences.length && view.canCompare" type="primary" size="small" @click="update">Bring to revision {{ view.newest }}</NButton>
      <NButton size="small" @click="attempt(() => post('/placements/{id}/detach', { path }), 'Detached from its template')">Detach</NButton>
    </template>
    <NButton size="small" data-act="take" :aria-expanded="doing === 'take'" @click="begin('take')">Take as a template…</NButton>
    <NButton v-if="dossier.noun !== 'controller'" size="small" data-act="copy" :aria-expanded="doing === 'copy'" @click="begin('copy')">Copy…</NButton>
  </p>
  <CopyForm v-if="doing === 'copy'" :id="record.id" :name="record.name" @done="doing = null" />
  <form v-if="doing === 'take'" class="take" @submit.prevent="take">
    <p v-if="!writable.length" class="dim">Make a library of your own first, under <RouterLink to="/library">Library</RouterLink>.</p>
    <template v-else>
      <TextBox v-model="called" aria-label="Name of the template" required />
      <PickOne v-model="library" :options="writable" aria-label="Library" />
      <NButton type="primary" size="small" attr-type="submit">Take it</NButton>
    </template>
    <p v-for="l in left" :key="l" class="bar medium">{{ l }}</p>
  </form>
</template>

<style scoped>
.take {
  display: grid;
  gap: 6px;
  margin-top: 6px;
  justify-items: start;
}
</style>
