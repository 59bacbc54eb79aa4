<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import { isOf } from '../shared/api/records'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import TemplateParameters from './TemplateParameters.vue'

/** A template: its points, what its sequences do, what of it may vary; and the ways on where it is for reading. */
const props = defineProps<{ view: Schemas['TemplateView']; here?: Schemas['LibraryView']; libraries: readonly Schemas['LibraryView'][] }>()
const emit = defineEmits<{ changed: []; copied: [library: string, template: string] }>()
const store = useStore()
const attempt = useDo()
const t = computed(() => props.view.template)
const points = computed(() => t.value.records.filter(isOf('point')))
const clauses = computed(() => t.value.records.filter(isOf('sequence')).flatMap((s) => (s.clauses ?? []).map((c) => c.text)))
const others = computed(() => t.value.records.length - points.value.length - 1)
const may = computed(() => store.may('engineer'))
const ships = computed(() => props.here?.sort === 'shipped')
const writable = computed(() => props.libraries.filter((l) => l.canWrite && l.id !== props.view.libraryId).map((l) => ({ value: l.id, label: l.name })))
const copyTo = ref('')
watch(writable, (w) => (copyTo.value ||= w[0]?.value ?? ''), { immediate: true })
async function open() {
  const path = { library: props.view.libraryId }
  await attempt(() => post('/libraries/{library}/reading', { path, body: { isForReading: false } }), 'Open for writing')
  emit('changed')
}
const copy = () =>
  attempt(async () => {
    const body = { fromLibrary: props.view.libraryId, templateId: t.value.id }
    const made = await post('/libraries/{library}/copy', { path: { library: copyTo.value }, body })
    emit('copied', copyTo.value, made.id)
  }, 'Copied; change the copy as you like')
async function save(patch: Partial<Schemas['Template']>, done: string) {
  const body = { template: { ...t.value, ...patch }, from: t.value.revision ?? 0 }
  await attempt(() => post('/libraries/{library}/templates', { path: { library: props.view.libraryId }, body }), done)
  emit('changed')
}
</script>

<template>
  <article class="sheet">
    <h2>{{ t.name }}</h2>
    <p>{{ t.comment }}</p>
    <p class="dim">revision {{ t.revision }} by {{ t.author }} · {{ points.length }} points · {{ others }} trends, alarms, sequences and other records</p>
    <NTable size="small" :bordered="false" class="close">
      <tbody>
        <tr v-for="p in points" :key="p.id">
          <td>{{ p.name }}</td>
          <td class="dim">{{ p.kind }} {{ p.role }}</td>
          <td class="mono">{{ p.unit ?? p.stateTexts?.join(' · ') }}</td>
        </tr>
      </tbody>
    </NTable>
    <template v-if="clauses.length">
      <h3>What it does</h3>
      <ol>
        <li v-for="(c, i) in clauses" :key="i">{{ c }}</li>
      </ol>
    </template>
    <div v-if="!view.canWrite && may" class="bar medium">
      <p>
        {{ here?.name }} {{ ships ? 'ships with the program and stays for reading' : 'is for reading' }}. To change this template,
        {{ ships ? 'copy it.' : 'open the library for writing, or copy it.' }}
      </p>
      <p class="acts">
        <NButton v-if="!ships" id="open-writing" size="small" @click="open">Open for writing</NButton>
        <template v-if="writable.length"
          ><PickOne v-model="copyTo" :options="writable" aria-label="Library to copy into" size="small" style="width: 150px" /><NButton
            id="copy-template"
            size="small"
            @click="copy"
            >Copy into it</NButton
          ></template
        ><span v-else class="dim">Make a library of your own at the left to copy it into.</span>
      </p>
    </div>
    <TemplateParameters v-if="view.canWrite && may" :view="view" @save="save" />
  </article>
</template>

<style scoped>
article {
  display: grid;
  gap: 8px;
}
ol {
  margin: 0;
  padding-left: 20px;
}
</style>
