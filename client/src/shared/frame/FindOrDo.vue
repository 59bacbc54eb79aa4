<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { get, type Schemas } from '../api/http'
import { useStore } from '../store'

const emit = defineEmits<{ close: []; undo: []; redo: [] }>()
const store = useStore()
const router = useRouter()
const query = ref('')
const hits = ref<Schemas['Hit'][]>([])
const at = ref(0)
const box = ref<HTMLInputElement>()
const commands: { name: string; words: string; run: () => void; role?: 'technician' | 'engineer' }[] = [
  { name: 'Undo', words: 'take back', run: () => emit('undo'), role: 'engineer' },
  { name: 'Redo', words: 'again', run: () => emit('redo'), role: 'engineer' },
  { name: 'Add a building, floor, room or equipment', words: 'new plan', run: () => router.push('/plan?add=1'), role: 'engineer' },
  { name: 'Import a list', words: 'csv xlsx spreadsheet points rooms export', run: () => router.push('/list/import'), role: 'engineer' },
  { name: 'I/O summary', words: 'count points terminals spare print', run: () => router.push('/list/summary') },
  { name: 'Library: place a template', words: 'templates equipment copy', run: () => router.push('/library') },
  { name: 'Tags and filters', words: 'haystack rules semantic', run: () => router.push('/tags') },
  { name: 'Add a controller', words: 'new wire panel', run: () => router.push('/wire?add=1'), role: 'engineer' },
  { name: 'Add a sequence', words: 'new program logic', run: () => router.push('/program?add=1'), role: 'engineer' },
  { name: 'Add a schedule', words: 'new supervise timetable', run: () => router.push('/supervise?add=1'), role: 'engineer' },
  { name: 'Trends', words: 'chart history', run: () => router.push('/supervise/trends') },
  { name: 'Alarms', words: 'acknowledge', run: () => router.push('/supervise/alarms') },
  { name: 'Held by hand', words: 'override release manual', run: () => router.push('/operate/held') },
  { name: 'Build the site', words: 'commission wire rooms machines virtual', run: () => router.push('/commission/build'), role: 'technician' },
  { name: 'Review and send', words: 'commission download controller', run: () => router.push('/commission'), role: 'technician' },
  { name: 'Names', words: 'naming convention spelling abbreviations network', run: () => router.push('/names') },
  { name: 'Projects', words: 'make open copy archive daily copies', run: () => router.push('/projects') },
  { name: 'Findings', words: 'checks problems', run: () => router.push('/findings') },
  { name: 'Project history', words: 'journal revisions', run: () => router.push('/history') },
  { name: 'Help on blocks', words: 'formula documentation', run: () => router.push('/program/help') },
  { name: 'Floor view', words: 'operate', run: () => router.push('/operate') },
  {
    name: 'Pause or run the site clock',
    words: 'stop time',
    run: () => store.setClock({ running: !store.clock?.running }),
    role: 'technician',
  },
]
const shown = computed(() => {
  const words = query.value.toLowerCase().split(/\s+/).filter(Boolean)
  return commands
    .filter((c) => (!c.role || store.may(c.role)) && words.every((w) => `${c.name} ${c.words}`.toLowerCase().includes(w)))
    .slice(0, words.length ? 6 : 9)
})
const all = computed(() => [
  ...shown.value.map((c) => ({ kind: 'do', title: c.name, sub: 'command', go: c.run })),
  ...hits.value.map((h) => ({ kind: h.noun, title: h.name, sub: h.path, go: () => open(h) })),
])
let turn = 0
watch(query, async (q) => {
  const mine = ++turn
  const found = q.trim() ? await get<Schemas['Hit'][]>(`/find?q=${encodeURIComponent(q)}`) : []
  if (mine === turn) [hits.value, at.value] = [found, 0]
})
onMounted(() => nextTick(() => box.value?.focus()))

async function open(hit: Schemas['Hit']) {
  const page = store.pageOf(hit.noun, hit.id)
  if (page) return router.push(page)
  await router.push(`/plan/${hit.id}`)
  store.selected = hit.id
}
function key(e: KeyboardEvent) {
  if (e.key === 'Escape') emit('close')
  else if (e.key === 'ArrowDown') at.value = Math.min(all.value.length - 1, at.value + 1)
  else if (e.key === 'ArrowUp') at.value = Math.max(0, at.value - 1)
  else if (e.key === 'Enter') choose(at.value)
  else return
  e.preventDefault()
}
function choose(i: number) {
  const item = all.value[i]
  if (!item) return
  emit('close')
  void item.go()
}
</script>

<template>
  <div class="veil" @mousedown.self="emit('close')">
    <div class="sheet box" role="dialog" aria-label="Find or do" @keydown="key">
      <input id="find" ref="box" v-model="query" class="field" placeholder="Words of a name or place, in any order, or what to do" aria-controls="find-list" />
      <ul id="find-list" role="listbox">
        <li v-for="(item, i) in all" :key="i" :class="{ on: i === at }" role="option" :aria-selected="i === at" @mousedown.prevent="choose(i)">
          <span class="kind">{{ item.kind }}</span><b>{{ item.title }}</b
          ><span class="dim">{{ item.sub }}</span>
        </li>
        <li v-if="query && !all.length" class="dim">Nothing has all these words. Try fewer.</li>
      </ul>
    </div>
  </div>
</template>

<style scoped>
.veil {
  position: fixed;
  inset: 0;
  background: #2b252155;
  z-index: 100;
  display: grid;
  justify-items: center;
  align-items: start;
  padding-top: 9vh;
}
.box {
  width: min(640px, 94vw);
}
.field {
  width: 100%;
  font-size: 16px;
  padding: 7px 10px;
}
ul {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
  max-height: 56vh;
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
