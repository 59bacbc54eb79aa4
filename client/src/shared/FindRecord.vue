<script setup lang="ts">
import { ref, watch } from 'vue'
import { get, type Schemas } from './api/http'

/** An input that finds one record of certain sorts by words of its name or place. */
const props = defineProps<{ nouns: string; says?: string; placeholder?: string; disabled?: boolean; required?: boolean; inputId?: string; label?: string }>()
const emit = defineEmits<{ choose: [hit: Schemas['Hit'] | null] }>()
const text = ref(props.says ?? '')
const hits = ref<Schemas['Hit'][]>([])
const at = ref(0)
const open = ref(false)
const chosen = ref(!!props.says)
watch(
  () => props.says,
  (s) => {
    text.value = s ?? ''
    chosen.value = !!s
  },
)
let turn = 0
async function find() {
  const mine = ++turn
  // What is typed stands for nothing until it is chosen, whatever stood before.
  emit('choose', null)
  chosen.value = false
  open.value = true
  const found = text.value.trim() ? await get<Schemas['Hit'][]>(`/find?nouns=${encodeURIComponent(props.nouns)}&q=${encodeURIComponent(text.value)}`) : []
  if (mine === turn) [hits.value, at.value] = [found, 0]
}
function choose(h: Schemas['Hit'] | undefined) {
  if (!h) return
  turn++
  open.value = false
  chosen.value = true
  text.value = h.path ? `${h.path} › ${h.name}` : h.name
  emit('choose', h)
}
async function key(e: KeyboardEvent) {
  if (e.key === 'Enter' && !chosen.value && text.value.trim()) {
    e.preventDefault()
    e.stopPropagation()
    if (!hits.value.length) await find()
    return choose(hits.value[at.value])
  }
  if (!open.value || !hits.value.length) return
  if (e.key === 'ArrowDown') at.value = Math.min(hits.value.length - 1, at.value + 1)
  else if (e.key === 'ArrowUp') at.value = Math.max(0, at.value - 1)
  else if (e.key === 'Escape') open.value = false
  else return
  e.preventDefault()
  e.stopPropagation()
}
</script>

<template>
  <span class="wrap">
    <input
      :id="inputId"
      v-model="text"
      class="field"
      role="combobox"
      :aria-label="label"
      :aria-expanded="open && !!hits.length"
      :placeholder="placeholder"
      :disabled="disabled"
      :required="required"
      autocomplete="off"
      @input="find"
      @keydown="key"
      @blur="open = false"
    />
    <span v-if="open && hits.length" class="sheet hits" role="listbox">
      <button v-for="(h, i) in hits" :key="h.id" type="button" role="option" :aria-selected="i === at" :class="{ on: i === at }" @mousedown.prevent="choose(h)">
        <b>{{ h.name }}</b> <span class="dim">{{ h.path }}</span>
      </button>
    </span>
    <span v-else-if="open && text.trim()" class="sheet hits dim">Nothing has these words.</span>
    <span v-else-if="text.trim() && !chosen" class="wrong unchosen" title="Take one from the list that comes up, or empty this.">Not chosen yet</span>
  </span>
</template>

<style scoped>
.wrap {
  position: relative;
  display: block;
}
.wrap .field {
  width: 100%;
}
.hits {
  position: absolute;
  top: 32px;
  left: 0;
  z-index: 20;
  min-width: 100%;
  width: max-content;
  max-width: min(560px, 90vw);
  padding: 4px;
  max-height: 260px;
  overflow: auto;
}
.hits button {
  display: block;
  width: 100%;
  border: 0;
  background: none;
  text-align: left;
  padding: 3px 6px;
  cursor: pointer;
}
.hits button.on {
  background: var(--plum-soft);
}
.unchosen {
  /* Inside the input: whatever is clicked next must not move away under the pointer. */
  position: absolute;
  right: 8px;
  top: 5px;
  padding-left: 6px;
  background: var(--sheet);
  font-size: 12.5px;
  pointer-events: none;
}
</style>
