<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../api/http'
import NumberBox from './NumberBox.vue'
import PickOne from './PickOne.vue'
import RecordPicker from './RecordPicker.vue'

/** What becomes of each record that uses something that goes: it goes along or loses its link, gets another or a fixed value in its place, or goes too. */
type Line = Schemas['RemovalLine']
type Choice = Schemas['RemovalChoice']
const props = defineProps<{ preview: Schemas['RemovalPreview'] }>()
const choices = defineModel<readonly Choice[]>('choices', { required: true })
const keyOf = (l: Line) => `${l.id} ${l.gone}`
const of = (l: Line) => choices.value.find((c) => c.recordId === l.id && c.gone === l.gone)
/** The lines stay in one order, whatever is chosen. */
const lines = computed(() => {
  const all = [...props.preview.changed, ...props.preview.gone.filter((l) => l.gone)]
  return all.sort((a, b) => a.noun.localeCompare(b.noun) || a.name.localeCompare(b.name) || a.id.localeCompare(b.id))
})
const goes = (l: Line) => props.preview.gone.some((g) => g.id === l.id)
const options = (l: Line) => [
  { value: 'usual', label: goes(l) && of(l)?.what !== 'goesToo' ? 'goes along' : 'loses its link' },
  { value: 'another', label: 'gets another…' },
  ...(l.mayBeFixed ? [{ value: 'constant', label: 'gets a fixed value…' }] : []),
  ...(!goes(l) || of(l)?.what === 'goesToo' ? [{ value: 'goesToo', label: 'goes too' }] : []),
]
function choose(l: Line, what: string, more: Partial<Choice> = {}) {
  const others = choices.value.filter((c) => c.recordId !== l.id || c.gone !== l.gone)
  choices.value = [...others, { recordId: l.id, gone: l.gone!, what, by: null, value: null, ...more } as Choice]
}
</script>

<template>
  <div v-for="l in lines" :key="keyOf(l)" class="use" :data-use="l.id">
    <span
      >{{ l.noun }} <b>{{ l.name }}</b> <span class="dim">{{ l.as }} ‘{{ l.goneName }}’ · {{ l.path }}</span></span
    >
    <PickOne
      :model-value="of(l)?.what ?? 'usual'"
      :options="options(l)"
      size="small"
      :aria-label="`What becomes of ${l.name}`"
      @update:model-value="(what) => choose(l, String(what))"
    />
    <RecordPicker
      v-if="of(l)?.what === 'another'"
      :nouns="l.nouns!"
      :placeholder="`words of another in place of ${l.goneName}`"
      :aria-label="`In place of ${l.goneName}`"
      class="more"
      @choose="(hit) => hit && choose(l, 'another', { by: hit.id })"
    />
    <NumberBox
      v-if="of(l)?.what === 'constant'"
      :model-value="of(l)?.value ?? null"
      :unit="l.unit"
      :aria-label="`Value in place of ${l.goneName}`"
      class="more"
      @update:model-value="(value) => choose(l, 'constant', { value } as Partial<Choice>)"
    />
    <span v-for="c in l.changes" :key="c" class="mono tiny more">{{ c }}</span>
  </div>
</template>

<style scoped>
.use {
  display: grid;
  grid-template-columns: 1fr 190px;
  gap: 3px 10px;
  align-items: center;
  border-top: 1px solid var(--rule);
  padding-top: 5px;
}
.more {
  grid-column: 1 / -1;
}
</style>
