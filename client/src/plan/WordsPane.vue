<script setup lang="ts">
import { ref } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import type { Action, Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'

/** The words in names and descriptions that no list knows: each corrected everywhere, or taken as right. */
type Word = Schemas['WordView']
const props = defineProps<{ names: Schemas['NamesView']; may: boolean; checks: boolean }>()
const emit = defineEmits<{ correct: [word: string, to: string] }>()
const attempt = useDo()
const instead = ref<Record<string, string>>({})
const own = (words: Word[]) => attempt(() => post('/names/words/own', { body: { words: words.map((w) => w.word) } }), 'Added to the project’s words')
const columns: Column<Word>[] = [
  { key: 'word', title: 'Word', width: 180, sort: (w) => w.word },
  { key: 'count', title: 'Times', width: 80, isNumber: true, sort: (w) => w.count },
  { key: 'where', title: 'Where' },
]
const actions: Action<Word>[] = [{ label: 'It is right', run: own, many: true, when: () => props.may }]
</script>

<template>
  <EmptyState v-if="!names.words.length" :title="checks ? '✓ Every word is known' : 'Spelling is not checked'">
    {{ checks ? 'Names and descriptions have no word that no list knows.' : 'Turn it on under Rules.' }}
  </EmptyState>
  <RecordTable v-else :rows="names.words" :columns="columns" :id="(w) => w.word" noun="word" plural="words" :words="(w) => w.word" :actions="actions">
    <template #word="{ row: w }"
      ><b>{{ w.word }}</b></template
    >
    <template #where="{ row: w }"
      ><span class="dim">{{ w.where[0] }}</span></template
    >
    <template #details="{ row: w }">
      <h2>{{ w.word }}</h2>
      <form v-if="may" class="acts" @submit.prevent="emit('correct', w.word, instead[w.word] ?? w.suggestion ?? '')">
        <TextBox
          :model-value="instead[w.word] ?? w.suggestion ?? ''"
          :aria-label="`Instead of ${w.word}`"
          placeholder="what it should be"
          @update:model-value="(v: string) => (instead[w.word] = v)"
        /><NButton attr-type="submit" :disabled="!(instead[w.word] ?? w.suggestion)">Correct…</NButton><NButton @click="own([w])">It is right</NButton>
      </form>
      <h3>Where it stands</h3>
      <p v-for="line in w.where" :key="line" class="dim">{{ line }}</p>
    </template>
  </RecordTable>
</template>
