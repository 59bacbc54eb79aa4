<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import { change, newId, put, type Point } from '../shared/api/records'
import { get, type Schemas } from '../shared/api/http'
import LiveText from '../shared/LiveText.vue'
import { useLive, useLoaded, useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

/** The points of what is selected, edited in place like a spreadsheet, copied and pasted as one. */
const props = defineProps<{ scope: string; title: string }>()
const emit = defineEmits<{ remove: [ids: string[]] }>()
const store = useStore()
const attempt = useDo()
const { value: rows, reload } = useLoaded<Schemas['PointRow'][]>(
  () => get(`/points?scope=${props.scope}`),
  () => props.scope,
)
useLive(() => (rows.value ?? []).slice(0, 300).map((r) => `p:${r.point.id}`))
type Column = { key: string; label: string; num?: boolean; options?: string[] }
const columns: Column[] = [
  { key: 'name', label: 'Name' },
  { key: 'kind', label: 'Kind', options: ['analog', 'binary', 'multistate'] },
  { key: 'role', label: 'Role', options: ['sensor', 'command', 'setpoint', 'value'] },
  { key: 'unit', label: 'Unit or states' },
  { key: 'low', label: 'Low', num: true },
  { key: 'high', label: 'High', num: true },
  { key: 'fallback', label: 'Fallback', num: true },
  { key: 'setpointId', label: 'Compared with' },
]
const at = ref({ r: 0, c: 0 })
const from = ref({ r: 0, c: 0 })
const editing = ref(false)
const text = ref('')
const may = computed(() => store.may('engineer'))
const ownRows = computed(() => rows.value ?? [])
const setpoints = computed(() => ownRows.value.filter((r) => r.point.role === 'setpoint').map((r) => r.point))
const box = computed(() => ({
  r0: Math.min(at.value.r, from.value.r),
  r1: Math.max(at.value.r, from.value.r),
  c0: Math.min(at.value.c, from.value.c),
  c1: Math.max(at.value.c, from.value.c),
}))
const inBox = (r: number, c: number) => r >= box.value.r0 && r <= box.value.r1 && c >= box.value.c0 && c <= box.value.c1

function show(p: Point, key: string): string {
  if (key === 'unit') return p.kind === 'analog' ? (p.unit ?? '') : (p.stateTexts ?? []).join(' · ')
  if (key === 'setpointId') return ownRows.value.find((r) => r.point.id === p.setpointId)?.point.name ?? (p.setpointId ? p.setpointId : '')
  if (key === 'fallback' && p.fallback != null && p.kind !== 'analog')
    return p.stateTexts?.[p.kind === 'binary' ? p.fallback : p.fallback - 1] ?? String(p.fallback)
  const v = (p as unknown as Record<string, unknown>)[key]
  return v == null ? '' : String(v)
}
/** A point with one cell set from text; throws with what is wrong in words. */
function withCell(p: Point, key: string, value: string): Point {
  const t = value.trim()
  const next = { ...p } as Record<string, unknown> & Point
  if (key === 'unit') {
    const states = t.split(/\s*[·/|;]\s*/).filter(Boolean)
    if (next.kind === 'analog' && states.length > 1 && !['m³/h', 'l/s', 'm/s', 'm3/h'].includes(t)) {
      next.kind = states.length === 2 ? 'binary' : 'multistate'
    }
    if (next.kind === 'analog') next.unit = (t === 'C' ? '°C' : t === 'm3/h' ? 'm³/h' : t) || null
    else next.stateTexts = states
  } else if (key === 'kind') {
    next.kind = t.toLowerCase() as Point['kind']
    if (next.kind === 'analog') next.stateTexts = []
    else {
      next.unit = null
      next.low = next.high = null
      if ((next.stateTexts?.length ?? 0) < 2) next.stateTexts = ['off', 'on']
    }
    next.fallback = null
  } else if (key === 'role') {
    next.role = t.toLowerCase() as Point['role']
    if (next.role === 'sensor') next.fallback = null
    else if (next.fallback == null && next.kind === 'binary') next.fallback = 0
  } else if (key === 'low' || key === 'high' || key === 'fallback') {
    const state = next.kind === 'analog' ? -1 : (next.stateTexts ?? []).findIndex((s) => s.toLowerCase() === t.toLowerCase())
    const n = state >= 0 ? (next.kind === 'binary' ? state : state + 1) : Number(t.replace('−', '-').replace(',', '.'))
    if (t && Number.isNaN(n))
      throw new Error(`‘${t}’ is not ${next.kind === 'analog' ? 'a number' : `one of ${next.stateTexts?.join(', ')}`} (column ${key}, ${p.name}).`)
    next[key] = t ? n : null
  } else if (key === 'setpointId') {
    const found = setpoints.value.find((s) => s.name.toLowerCase() === t.toLowerCase() || s.id === t)
    if (t && !found) throw new Error(`There is no setpoint ‘${t}’ here to compare with.`)
    next.setpointId = found?.id ?? null
  } else next.name = t
  return next
}
const blank = (): Point => ({ id: newId('point'), name: '', ownerId: props.scope, kind: 'analog', role: 'sensor', unit: '°C' }) as Point

async function commit(stay = false) {
  if (!editing.value) return
  editing.value = false
  const { r, c } = at.value
  const row = ownRows.value[r]
  const key = columns[c]!.key
  if (row ? text.value.trim() === show(row.point, key) : !text.value.trim()) return
  const done = await attempt(async () => {
    const point = withCell(row?.point ?? blank(), key, text.value)
    await change([put('point', point, row?.revision ?? 0)])
    await reload()
  })
  if (!done && stay) {
    editing.value = true
    return
  }
  focusCell()
}
function edit(start?: string) {
  if (!may.value) return
  const { r, c } = at.value
  if (r > 0 && !ownRows.value[r] && c > 0) return
  const current = ownRows.value[r] ? show(ownRows.value[r]!.point, columns[c]!.key) : ''
  // Where only some words will do, the first letter chooses the word.
  const options = columns[c]!.options
  text.value = start === undefined ? current : options ? (options.find((o) => o.startsWith(start.toLowerCase())) ?? current) : start
  editing.value = true
  void nextTick(() => {
    const input = document.querySelector<HTMLInputElement>('.cell-edit')
    input?.focus()
    if (start === undefined && input instanceof HTMLInputElement) input.select()
  })
}
function focusCell() {
  void nextTick(() => document.querySelector<HTMLElement>(`[data-cell="${at.value.r},${at.value.c}"]`)?.focus())
}
function goto(r: number, c: number, extend = false) {
  at.value = { r: Math.max(0, Math.min(ownRows.value.length, r)), c: Math.max(0, Math.min(columns.length - 1, c)) }
  if (!extend) from.value = { ...at.value }
  focusCell()
}
async function key(e: KeyboardEvent) {
  const { r, c } = at.value
  if (editing.value) {
    if (e.key === 'Enter' || e.key === 'Tab') {
      e.preventDefault()
      await commit(true)
      if (!editing.value) goto(e.key === 'Enter' ? r + (e.shiftKey ? -1 : 1) : r, e.key === 'Tab' ? c + (e.shiftKey ? -1 : 1) : c)
    } else if (e.key === 'Escape') {
      e.stopPropagation()
      editing.value = false
      focusCell()
    }
    return
  }
  const step: Record<string, [number, number]> = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }
  if (step[e.key]) goto(r + step[e.key]![0], c + step[e.key]![1], e.shiftKey)
  else if (e.key === 'F2' || e.key === 'Enter') edit()
  else if (e.key === 'Delete') {
    const ids = ownRows.value.slice(box.value.r0, box.value.r1 + 1).map((x) => x.point.id)
    if (may.value && ids.length) emit('remove', ids)
  } else if (e.key.length === 1 && !e.ctrlKey && !e.metaKey && !e.altKey) edit(e.key)
  else return
  e.preventDefault()
}
function copy(e: ClipboardEvent) {
  if (editing.value) return
  const { r0, r1, c0, c1 } = box.value
  const lines = ownRows.value.slice(r0, r1 + 1).map((row) =>
    columns
      .slice(c0, c1 + 1)
      .map((col) => show(row.point, col.key))
      .join('\t'),
  )
  e.clipboardData?.setData('text/plain', lines.join('\n'))
  e.preventDefault()
}
async function paste(e: ClipboardEvent) {
  if (editing.value || !may.value) return
  e.preventDefault()
  const lines = (e.clipboardData?.getData('text/plain') ?? '')
    .replace(/\r/g, '')
    .split('\n')
    .filter((l, i, all) => l || i < all.length - 1)
  if (!lines.length) return
  await attempt(async () => {
    const edits = lines.map((line, i) => {
      const row = ownRows.value[box.value.r0 + i]
      let point = row?.point ?? blank()
      line.split('\t').forEach((cell, j) => {
        const col = columns[box.value.c0 + j]
        if (col) point = withCell(point, col.key, cell)
      })
      return put('point', point, row?.revision ?? 0)
    })
    await change(edits, `Pasted ${edits.length} row${edits.length === 1 ? '' : 's'} into the points of ‘${props.title}’`)
    await reload()
  }, `Pasted ${lines.length} rows`)
}
</script>

<template>
  <section class="points" aria-label="Points" @copy="copy" @paste="paste">
    <div class="head">
      <h2>Points of {{ title }}</h2>
      <button class="btn small" @click="store.selected = scope">Properties</button>
      <span class="pill">{{ ownRows.length }}</span>
      <span v-if="ownRows.some((r) => r.findings)" class="pill amber">▲ {{ ownRows.reduce((n, r) => n + r.findings, 0) }} findings</span>
      <span class="space" />
      <span class="dim" style="font-size: 12.5px">type into a cell · <kbd>Ctrl C</kbd> <kbd>Ctrl V</kbd> to and from a spreadsheet</span>
    </div>
    <div class="scroll">
      <table class="grid" @keydown="key">
        <thead>
          <tr>
            <th v-for="c in columns" :key="c.key" :style="{ textAlign: c.num ? 'right' : 'left' }">{{ c.label }}</th>
            <th>Source</th>
            <th>Check</th>
            <th style="text-align: right">Now</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, r) in ownRows" :key="row.point.id" :class="{ sel: store.selected === row.point.id }">
            <td
              v-for="(c, i) in columns"
              :key="c.key"
              :class="{ num: c.num, in: inBox(r, i) }"
              tabindex="0"
              :data-cell="`${r},${i}`"
              @focus="!editing && (at.r !== r || at.c !== i) && (at = from = { r, c: i })"
              @mousedown.shift.prevent="at = { r, c: i }"
              @dblclick="edit()"
            >
              <template v-if="editing && at.r === r && at.c === i">
                <select v-if="c.options" v-model="text" class="cell-edit field" @change="commit()" @blur="commit()">
                  <option v-for="o in c.options" :key="o">{{ o }}</option>
                </select>
                <input v-else v-model="text" class="cell-edit field" @blur="commit()" />
              </template>
              <template v-else
                ><b v-if="i === 0">{{ row.point.name }}</b
                ><template v-else>{{ show(row.point, c.key) }}</template>
                <span v-if="i === 0 && row.point.ownerId !== scope" class="dim owner">{{ row.owner }}</span></template
              >
            </td>
            <td class="mono" style="white-space: nowrap">
              <span v-if="row.source">{{ row.source }}</span><span v-else class="wrong">not wired</span>
            </td>
            <td>
              <span v-if="row.findings" class="amber-text" :title="row.worstFinding ?? ''">▲ {{ row.findings }}</span
              ><span v-else title="no findings">✓</span>
            </td>
            <td class="num">
              <button class="now" :title="`Why? Open the dossier of ${row.point.name}`" @click="store.selected = row.point.id">
                <LiveText :id="`p:${row.point.id}`" />
              </button>
            </td>
          </tr>
          <tr v-if="may">
            <td class="in-new" tabindex="0" :data-cell="`${ownRows.length},0`" id="new-point" @focus="at = from = { r: ownRows.length, c: 0 }" @click="edit()">
              <input v-if="editing && at.r === ownRows.length" v-model="text" class="cell-edit field" placeholder="name of the new point" @blur="commit()" />
              <span v-else class="dim">+ type a name for a new point</span>
            </td>
            <td :colspan="columns.length + 2" class="dim"></td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>

<style scoped>
.points {
  display: flex;
  flex-direction: column;
  gap: 6px;
  min-height: 0;
}
.scroll {
  overflow-x: auto;
}
td {
  cursor: cell;
}
td.in {
  background: var(--plum-soft);
}
.owner {
  font-size: 12px;
  margin-left: 6px;
}
.cell-edit {
  width: 100%;
  min-width: 80px;
  padding: 1px 4px;
}
.now {
  border: 0;
  background: none;
  padding: 0;
  cursor: pointer;
  font: inherit;
}
.amber-text {
  color: var(--amber);
}
</style>
