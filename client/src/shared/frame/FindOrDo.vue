<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { commands, pageOf } from '../../pages'
import { get, type Schemas } from '../api/http'
import { useStore, type Role } from '../store'
import { stepTo } from '../ui/records'
import TextBox from '../ui/TextBox.vue'
import { useUndo } from '../useUndo'

/** One box for everything: records by words of their name or place, and what can be done. */
const emit = defineEmits<{ close: [] }>()
const store = useStore()
const router = useRouter()
const undo = useUndo()
const query = ref('')
const hits = ref<Schemas['Hit'][]>([])
const at = ref(0)
const box = ref<InstanceType<typeof TextBox>>()
const all: { name: string; words: string; role?: Role; run: () => unknown }[] = [
  { name: 'Undo', words: 'take back', role: 'engineer', run: () => undo(false) },
  { name: 'Redo', words: 'again', role: 'engineer', run: () => undo(true) },
  ...commands.map((c) => ({ ...c, run: () => router.push(c.to) })),
  { name: 'Pause or run the site clock', words: 'stop time', role: 'technician', run: () => store.setClock({ running: !store.clock?.running }) },
]
const shown = computed(() => {
  const words = query.value.toLowerCase().split(/\s+/).filter(Boolean)
  return all
    .filter((c) => (!c.role || store.may(c.role)) && words.every((w) => `${c.name} ${c.words}`.toLowerCase().includes(w)))
    .slice(0, words.length ? 6 : 9)
})
const items = computed(() => [
  ...shown.value.map((c) => ({ kind: 'do', title: c.name, sub: 'command', go: c.run })),
  ...hits.value.map((h) => ({ kind: h.noun, title: h.name, sub: h.path, go: () => open(h) })),
])
let turn = 0
watch(query, async (q) => {
  const mine = ++turn
  const found = q.trim() ? await get('/find', { query: { q } }) : []
  if (mine === turn) [hits.value, at.value] = [found, 0]
})
onMounted(() => nextTick(() => box.value?.focus()))

async function open(hit: Schemas['Hit']) {
  const page = pageOf(hit.noun, hit.id)
  if (page) return router.push(page)
  await router.push(`/plan/${hit.id}`)
  store.selected = hit.id
}
function key(e: KeyboardEvent) {
  const next = stepTo(e.key, at.value, items.value.length)
  if (e.key === 'Enter') choose(at.value)
  else if (['ArrowDown', 'ArrowUp'].includes(e.key)) at.value = next
  else return
  e.preventDefault()
}
function choose(i: number) {
  const item = items.value[i]
  if (!item) return
  emit('close')
  void item.go()
}
</script>

<template>
  <ModalBox label="Find or do" wide @close="emit('close')">
    <div @keydown="key">
      <TextBox
        id="find"
        ref="box"
        v-model="query"
        placeholder="Words of a name or place, in any order, or what to do"
        aria-label="Find or do"
        role="combobox"
        aria-expanded="true"
        aria-controls="find-list"
        :aria-activedescendant="`found-${at}`"
      />
      <ul id="find-list" role="listbox" aria-label="Found">
        <li
          v-for="(item, i) in items"
          :id="`found-${i}`"
          :key="i"
          :class="{ on: i === at }"
          role="option"
          :aria-selected="i === at"
          @mousedown.prevent="choose(i)"
        >
          <span class="kind">{{ item.kind }}</span><b>{{ item.title }}</b
          ><span class="dim">{{ item.sub }}</span>
        </li>
      </ul>
      <p v-if="query && !items.length" class="dim">Nothing has all these words. Try fewer.</p>
    </div>
  </ModalBox>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
  height: 52vh;
  overflow: auto;
}
li {
  display: flex;
  gap: 9px;
  padding: 4px 8px;
  border-radius: 6px;
  cursor: pointer;
  align-items: baseline;
}
li b {
  white-space: nowrap;
}
li .dim {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
li.on {
  background: var(--plum-soft);
}
.kind {
  font-size: 12px;
  color: var(--ink-2);
  width: 74px;
  flex: none;
}
</style>
