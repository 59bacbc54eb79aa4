<script setup lang="ts">
import { computed, onMounted, reactive, ref } from 'vue'
import { post, type Schemas } from '../api/http'
import { useDo } from '../useDo'
import NumberBox from './NumberBox.vue'
import PickOne from './PickOne.vue'
import RecordPicker from './RecordPicker.vue'

/** Shows all that goes with a removal and all that depends on it, before it is done; for each a choice of what takes the place of what goes. */
type Line = Schemas['RemovalLine']
type Choice = Schemas['RemovalChoice']
const props = defineProps<{ ids: string[] }>()
const emit = defineEmits<{ close: [removed: boolean] }>()
const attempt = useDo()
const preview = ref<Schemas['RemovalPreview'] | null>(null)
const choices = reactive(new Map<string, Choice>())
const keyOf = (l: Line) => `${l.id} ${l.gone}`
const body = computed(() => ({ ids: props.ids, choices: [...choices.values()] }))
const look = async () => attempt(async () => (preview.value = await post('/removal', { body: body.value })))
onMounted(async () => (await look()) || emit('close', false))
/** The lines stay in the order in which they were seen first, whatever is chosen. */
const lines = computed(() => {
  const all = [...(preview.value?.changed ?? []), ...(preview.value?.gone ?? []).filter((l) => l.gone)]
  return all.sort((a, b) => a.noun.localeCompare(b.noun) || a.name.localeCompare(b.name) || a.id.localeCompare(b.id))
})
const asked = computed(() => (preview.value?.gone ?? []).filter((l) => !l.gone))
const goes = (l: Line) => preview.value!.gone.some((g) => g.id === l.id)
const options = (l: Line) => [
  { value: 'usual', label: goes(l) && choices.get(keyOf(l))?.what !== 'goesToo' ? 'goes along' : 'loses its link' },
  { value: 'another', label: 'gets another…' },
  ...(l.mayBeFixed ? [{ value: 'constant', label: 'gets a fixed value…' }] : []),
  ...(!goes(l) || choices.get(keyOf(l))?.what === 'goesToo' ? [{ value: 'goesToo', label: 'goes too' }] : []),
]
function choose(l: Line, what: string, more: Partial<Choice> = {}) {
  choices.set(keyOf(l), { recordId: l.id, gone: l.gone!, what, by: null, value: null, ...more } as Choice)
  void look()
}
async function remove() {
  if (await attempt(() => post('/removal/apply', { body: body.value }), 'Removed. Ctrl Z brings it back.')) emit('close', true)
}
</script>

<template>
  <ModalBox v-if="preview" label="Remove" alert wide @close="emit('close', false)">
    <h2>{{ preview.sentence }}</h2>
    <div class="lists" tabindex="0" role="group" aria-label="What goes, and what changes">
      <p v-for="l in asked" :key="l.id">
        {{ l.noun }} <b>{{ l.name }}</b> <span class="dim">{{ l.path }}</span>
      </p>
      <template v-if="lines.length">
        <h3>What uses it</h3>
        <div v-for="l in lines" :key="keyOf(l)" class="use" :data-use="l.id">
          <span
            >{{ l.noun }} <b>{{ l.name }}</b> <span class="dim">{{ l.as }} ‘{{ l.goneName }}’ · {{ l.path }}</span></span
          >
          <PickOne
            :model-value="choices.get(keyOf(l))?.what ?? 'usual'"
            :options="options(l)"
            size="small"
            :aria-label="`What becomes of ${l.name}`"
            @update:model-value="(what) => choose(l, String(what))"
          />
          <RecordPicker
            v-if="choices.get(keyOf(l))?.what === 'another'"
            :nouns="l.nouns!"
            :placeholder="`words of another in place of ${l.goneName}`"
            :aria-label="`In place of ${l.goneName}`"
            class="more"
            @choose="(hit) => hit && choose(l, 'another', { by: hit.id })"
          />
          <NumberBox
            v-if="choices.get(keyOf(l))?.what === 'constant'"
            :model-value="choices.get(keyOf(l))?.value ?? null"
            :unit="l.unit"
            :aria-label="`Value in place of ${l.goneName}`"
            class="more"
            @update:model-value="(value) => choose(l, 'constant', { value } as Partial<Choice>)"
          />
          <span v-for="c in l.changes" :key="c" class="mono tiny more">{{ c }}</span>
        </div>
      </template>
    </div>
    <p v-if="preview.refused" class="dim">{{ preview.refused }}</p>
    <p class="acts">
      <NButton id="remove-do" type="primary" :disabled="!!preview.refused" @click="remove">Remove {{ preview.gone.length }}</NButton>
      <NButton @click="emit('close', false)">Keep it</NButton>
    </p>
  </ModalBox>
</template>

<style scoped>
.lists {
  max-height: 54vh;
  overflow: auto;
  margin: 8px 0;
  display: grid;
  gap: 6px;
}
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
