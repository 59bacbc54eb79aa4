<script setup lang="ts">
import { ref, watch } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import type { Source } from '../shared/api/records'

/** An input where a source is typed: words of a point, schedule or block, or a constant such as 29 °C or on. */
const props = defineProps<{ sequenceId: string; says: string; disabled?: boolean; label: string }>()
const emit = defineEmits<{ choose: [source: Source | null] }>()
const text = ref(props.says)
const guesses = ref<Schemas['SourceGuess'][]>([])
const at = ref(0)
const open = ref(false)
watch(
  () => props.says,
  (s) => (text.value = s),
)
let turn = 0
async function guess() {
  const mine = ++turn
  open.value = true
  const found = text.value.trim() ? await post<Schemas['SourceGuess'][]>(`/sequences/${props.sequenceId}/sources`, { text: text.value }) : []
  if (mine === turn) [guesses.value, at.value] = [found, 0]
}
/** What was typed but not chosen does not stand; the box goes back to saying what is connected. */
function leave() {
  open.value = false
  text.value = props.says
}
function choose(g: Schemas['SourceGuess'] | undefined) {
  open.value = false
  if (g) emit('choose', g.source)
}
async function key(e: KeyboardEvent) {
  if (e.key === 'ArrowDown') at.value = Math.min(guesses.value.length - 1, at.value + 1)
  else if (e.key === 'ArrowUp') at.value = Math.max(0, at.value - 1)
  else if (e.key === 'Enter') {
    e.preventDefault()
    if (!text.value.trim()) return (choose(undefined), emit('choose', null))
    if (!guesses.value.length) await guess()
    choose(guesses.value[at.value])
    return
  } else if (e.key === 'Escape') {
    e.stopPropagation()
    open.value = false
    text.value = props.says
    return
  } else return
  e.preventDefault()
}
</script>

<template>
  <span class="wrap">
    <input
      v-model="text"
      class="field"
      :disabled="disabled"
      :aria-label="label"
      placeholder="type a source"
      @input="guess"
      @keydown="key"
      @blur="leave"
      @focus="($event.target as HTMLInputElement).select()"
    />
    <span v-if="open && guesses.length" class="sheet list">
      <button v-for="(g, i) in guesses" :key="i" type="button" :class="{ on: i === at }" @mousedown.prevent="choose(g)">
        <b>{{ g.name }}</b> <span class="dim">{{ g.path }}</span>
      </button>
    </span>
    <span v-else-if="open && text.trim()" class="sheet list dim">Nothing has these words. Try fewer, or a constant such as 29 °C.</span>
  </span>
</template>

<style scoped>
.wrap {
  position: relative;
  display: block;
}
.field {
  width: 100%;
}
.list {
  position: absolute;
  right: 0;
  top: 30px;
  z-index: 30;
  padding: 4px;
  width: 290px;
  max-height: 240px;
  overflow: auto;
  box-shadow: 0 4px 14px #0002;
}
.list button {
  display: block;
  width: 100%;
  text-align: left;
  border: 0;
  background: none;
  padding: 3px 6px;
  border-radius: 5px;
  cursor: pointer;
}
.list .on {
  background: var(--plum-soft);
}
</style>
