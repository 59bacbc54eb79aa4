<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../api/cache'
import { change, put } from '../api/records'
import { useStore } from '../store'
import { useDo } from '../useDo'
import type { Dossier } from './sections'
import TagTable from './TagTable.vue'

/** The tags of a record: direct ones to write and take off, derived ones with what gave them. */
const props = defineProps<{ dossier: Dossier }>()
const store = useStore()
const attempt = useDo()
const adding = ref('')
const open = ref(false)
const record = computed(() => props.dossier.record as { id: string; tags?: Record<string, string> | null })
const { value: tags } = useShown('/tags/of/{id}', () => ({ path: { id: record.value.id } }), ['taggingRule', 'place', 'equipment', 'point'])
const markers = computed(() => (tags.value ?? []).filter((t) => t.value === 'M'))
const mayTakeOff = (t: { origin: string }) => t.origin === 'direct' && store.may('engineer')
const save = (next: Record<string, string>) =>
  attempt(() => change([put(props.dossier.record.type, { ...record.value, tags: Object.keys(next).length ? next : null }, props.dossier.revision)]))
async function add() {
  const [name, ...rest] = adding.value.trim().split(':')
  if (name && (await save({ ...record.value.tags, [name]: rest.join(':') || 'M' }))) adding.value = ''
}
function takeOff(name: string) {
  const { [name]: _, ...rest } = record.value.tags ?? {}
  void save(rest)
}
</script>

<template>
  <p class="tags">
    <NTag
      v-for="t in markers"
      :key="t.name"
      size="small"
      :type="t.origin === 'direct' ? 'info' : 'default'"
      :closable="mayTakeOff(t)"
      :title="t.why"
      @close="takeOff(t.name)"
      >{{ t.name }}</NTag
    >
    <NButton size="tiny" :aria-expanded="open" @click="open = !open">{{ open ? 'Fewer' : 'Why these?' }}</NButton>
  </p>
  <TagTable v-if="open" :id="record.id" v-slot="{ tag: t }"
    ><NButton v-if="mayTakeOff(t)" text :aria-label="`Take ${t.name} off`" @click="takeOff(t.name)">✕</NButton></TagTable
  >
  <form v-if="store.may('engineer')" class="add" @submit.prevent="add">
    <TextBox v-model="adding" mono placeholder="tag, or tag:value" aria-label="Add a direct tag" /><NButton size="medium" attr-type="submit">Add</NButton>
  </form>
</template>

<style scoped>
.tags {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.add {
  display: flex;
  gap: 6px;
  margin-top: 6px;
}
</style>
