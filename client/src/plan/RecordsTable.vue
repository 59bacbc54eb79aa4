<script setup lang="ts">
import { useElementSize, useLocalStorage, useScroll } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'
import { newId } from '../shared/api/records'
import { get, post, type Schemas } from '../shared/api/http'
import { kinds as allKinds } from '../shared/api/kinds'
import LiveText from '../shared/LiveText.vue'
import { useLive, useStore } from '../shared/store'
import { count as said } from '../shared/numbers'
import { useDo } from '../shared/useDo'
import ModalBox from '../shared/ModalBox.vue'

/** The records of one kind in what is selected, edited in place like a spreadsheet, copied and pasted as one. What a text in a cell means, the server says. */
const props = defineProps<{ scope: string; title: string }>()
const emit = defineEmits<{ remove: [ids: string[]] }>()
const store = useStore()
const attempt = useDo()
const words = ref('')
const filter = ref('')
const filtering = ref(false)
const sort = ref('')
const total = ref(0)
const filterError = ref('')
/** The rows that have been fetched, by their place in the list; the rest is fetched when it is scrolled to. */
const loaded = ref(new Map<number, Schemas['GridRow']>())
/** The kind of record that is listed; points, unless another is chosen. */
const kindKey = ref('point')
const kinds = allKinds.filter((k) => k.columns.length > 1)
const kind = computed(() => kinds.find((k) => k.key === kindKey.value) ?? kinds.find((k) => k.key === 'point'))
const plural = computed(() => kind.value?.nouns[0]?.plural ?? 'points')
const noun = computed(() => kind.value?.nouns[0]?.noun ?? 'point')
const isPoints = computed(() => kind.value?.key === 'point')
const PAGE = 200
const ROW = 31
const scroller = ref<HTMLElement>()
const { y } = useScroll(scroller)
const { height } = useElementSize(scroller)
/** What rows are grouped by, and the groups they stand in: each has a line of its own above its first row. */
const group = useLocalStorage('points-group', '')
const groups = ref<Schemas['RowGroup'][]>([])
const lines = computed(() => total.value + groups.value.length)
const firstLine = computed(() => Math.max(0, Math.floor(y.value / ROW) - 8))
const lastLine = computed(() => Math.min(lines.value, Math.ceil((y.value + (height.value || 600)) / ROW) + 8))
/** How many groups begin at this row or before. */
function begun(row: number) {
  let low = 0
  let high = groups.value.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (Number(groups.value[middle]!.from) <= row) low = middle + 1
    else high = middle
  }
  return low
}
const lineOf = (row: number) => row + begun(row)
/** The lines that are drawn: a row of the list, or the head of a group. */
const windowLines = computed(() => {
  const drawn: ({ r: number; head?: undefined } | { r?: undefined; head: Schemas['RowGroup'] })[] = []
  let low = 0
  while (low < groups.value.length && Number(groups.value[low]!.from) + low < firstLine.value) low++
  for (let v = firstLine.value, g = low; v < lastLine.value; v++) {
    if (g < groups.value.length && Number(groups.value[g]!.from) + g === v) drawn.push({ head: groups.value[g++]! })
    else drawn.push({ r: v - g })
  }
  return drawn
})
const windowRows = computed(() => windowLines.value.flatMap((l) => (l.r === undefined ? [] : [l.r])))
const first = computed(() => windowRows.value[0] ?? 0)
const last = computed(() => (windowRows.value.at(-1) ?? -1) + 1)
const question = (count = PAGE) =>
  new URLSearchParams({
    scope: props.scope,
    words: words.value,
    filter: filtering.value ? filter.value : '',
    sort: sort.value,
    group: group.value,
    count: String(count),
  }).toString()
const pending = new Set<number>()
let turn = 0
async function fetchPage(page: number) {
  if (pending.has(page)) return
  pending.add(page)
  const mine = turn
  const answer = await get<Schemas['GridPage']>(`/grid/${kind.value?.key ?? 'point'}?${question()}&offset=${page * PAGE}`).catch(() => null)
  pending.delete(page)
  if (!answer || mine !== turn) return
  total.value = answer.counting ? Math.max(total.value, Number(answer.total)) : Number(answer.total)
  groups.value = answer.groups
  if (answer.counting) void count(mine)
  filterError.value = answer.filterError ?? ''
  answer.rows.forEach((row, i) => loaded.value.set(page * PAGE + i, row))
  loaded.value = new Map(loaded.value)
}
/** The first rows come before the rest is counted; this asks how many there are. */
async function count(mine: number) {
  const answer = await get<Schemas['GridPage']>(`/grid/${kind.value?.key ?? 'point'}?${question(1)}&offset=1`).catch(() => null)
  if (answer && mine === turn) total.value = Number(answer.total)
}
/** How many rows a selection may be worked on at once. */
const MOST = 2000
/** Fetches rows that are not here yet, so that nothing of a selection is left out in silence. */
async function ensure(from: number, to: number) {
  const end = Math.min(to, total.value - 1)
  if (end - from >= MOST)
    throw new Error(`${end - from + 1} rows are selected; copy, fill and paste work on at most ${MOST} at once. Use Export for a whole list, or Replace.`)
  for (let page = Math.floor(from / PAGE); page <= Math.floor(end / PAGE); page++)
    for (let n = page * PAGE; n < Math.min(total.value, (page + 1) * PAGE); n++)
      if (!loaded.value.has(n)) {
        await fetchPage(page)
        break
      }
  for (let n = from; n <= end; n++) if (!loaded.value.has(n)) throw new Error('Some of these rows could not be fetched. Nothing was done; try again.')
}
/** Fetches again what is seen; what was fetched before is forgotten when the question is another. */
async function reload(other = false) {
  turn++
  pending.clear()
  const pages = new Set([Math.floor(first.value / PAGE), Math.floor(Math.max(first.value, last.value - 1) / PAGE), Math.floor(at.value.r / PAGE)])
  if (other) pages.clear()
  if (!pages.size) pages.add(0)
  for (const n of [...loaded.value.keys()]) if (!pages.has(Math.floor(n / PAGE))) loaded.value.delete(n)
  await Promise.all([...pages].map(fetchPage))
  for (const n of [...loaded.value.keys()]) if (n >= total.value) loaded.value.delete(n)
}
const allColumns = computed(() => kind.value?.columns ?? [])
const hiddenOf = useLocalStorage<Record<string, string[]>>('grid-hidden', { point: ['description', 'networkName'] })
const hidden = computed({
  get: () => hiddenOf.value[kindKey.value] ?? [],
  set: (keys) => (hiddenOf.value = { ...hiddenOf.value, [kindKey.value]: keys }),
})
/** The order somebody chose; the name stays first, and a column this order does not know comes last. */
const orderOf = useLocalStorage<Record<string, string[]>>('grid-order', {})
const order = computed({
  get: () => orderOf.value[kindKey.value] ?? [],
  set: (keys) => (orderOf.value = { ...orderOf.value, [kindKey.value]: keys }),
})
const place = (key: string) => (order.value.includes(key) ? order.value.indexOf(key) : allColumns.value.findIndex((c) => c.key === key) + 100)
const ordered = computed(() => [...allColumns.value.slice(0, 1), ...allColumns.value.slice(1).sort((a, b) => place(a.key) - place(b.key))])
const columns = computed(() => ordered.value.filter((c) => !hidden.value.includes(c.key)))
function move(key: string, by: 1 | -1) {
  const keys = ordered.value.slice(1).map((c) => c.key)
  const i = keys.indexOf(key)
  const [one] = keys.splice(i, 1)
  keys.splice(Math.max(0, i + by), 0, one!)
  order.value = keys
}
const choosing = ref(false)
const groupings = computed(() => kind.value?.groups ?? [])
/** What is narrowed down by one kind's fields means nothing to another's. */
function choose(key: string) {
  kindKey.value = key
  sort.value = ''
  if (!groupings.value.some((g) => g.key === group.value)) group.value = ''
}
const at = ref({ r: 0, c: 0 })
const from = ref({ r: 0, c: 0 })
watch(
  [() => props.scope, () => kind.value?.key, words, () => (filtering.value ? filter.value : ''), sort, group],
  () => {
    loaded.value = new Map()
    total.value = 0
    groups.value = []
    at.value = from.value = { r: 0, c: 0 }
    if (kind.value) void reload(true)
  },
  { immediate: true },
)
watch(
  () => store.lastChange?.revision,
  () => void reload(),
)
watch([first, last], () => {
  for (const page of new Set([Math.floor(first.value / PAGE), Math.floor(Math.max(0, last.value - 1) / PAGE)])) {
    const here = page * PAGE
    if (here < total.value && windowRows.value.some((n) => Math.floor(n / PAGE) === page && !loaded.value.has(n))) void fetchPage(page)
  }
})
useLive(() => (isPoints.value ? windowRows.value.flatMap((n) => (loaded.value.has(n) ? [`p:${loaded.value.get(n)!.id}`] : [])) : []))
const editing = ref(false)
const text = ref('')
const may = computed(() => store.may('engineer'))
const rowAt = (r: number) => loaded.value.get(r)
const box = computed(() => ({
  r0: Math.min(at.value.r, from.value.r),
  r1: Math.max(at.value.r, from.value.r),
  c0: Math.min(at.value.c, from.value.c),
  c1: Math.max(at.value.c, from.value.c),
}))
// What is selected is fetched ahead, so that copying it, which cannot wait, has it at hand.
watch(box, (b) => b.r1 - b.r0 < MOST && b.r1 > b.r0 && void ensure(b.r0, b.r1).catch(() => {}))
const inBox = (r: number, c: number) => r >= box.value.r0 && r <= box.value.r1 && c >= box.value.c0 && c <= box.value.c1

const show = (row: Schemas['GridRow'], key: string) => row.cells[allColumns.value.findIndex((c) => c.key === key)] ?? ''
type Cell = Schemas['CellEdit']
/** A text for one field of a row; of a row that is not there yet, what it will be and belong to. */
const cell = (row: Schemas['GridRow'] | undefined, id: string, field: string, text: string): Cell =>
  row ? { id: row.id, field, text, from: row.revision } : { id, field, text, from: 0, kind: kind.value!.key, ownerId: props.scope }

async function commit(stay = false) {
  if (!editing.value) return
  editing.value = false
  const { r, c } = at.value
  const row = rowAt(r)
  const key = columns.value[c]!.key
  if (row ? text.value.trim() === show(row, key) : !text.value.trim()) return
  const done = await attempt(async () => {
    await post('/cells', { cells: [cell(row, newId(kind.value!.key), key, text.value)] })
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
  if (!rowAt(r) && (r < total.value || c > 0)) return
  const current = rowAt(r) ? show(rowAt(r)!, columns.value[c]!.key) : ''
  // Where only some words will do, the first letter chooses the word.
  const options = columns.value[c]!.choices
  text.value = start === undefined ? current : options.length ? (options.find((o) => o.startsWith(start.toLowerCase())) ?? current) : start
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
  at.value = { r: Math.max(0, Math.min(total.value, r)), c: Math.max(0, Math.min(columns.value.length - 1, c)) }
  const top = lineOf(at.value.r) * ROW
  if (scroller.value && (top < y.value || top > y.value + height.value - 2 * ROW)) scroller.value.scrollTop = Math.max(0, top - height.value / 2)
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
  else if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'd' && may.value) fill(e.shiftKey)
  else if (e.key === 'Home') goto(e.ctrlKey ? 0 : r, 0, e.shiftKey)
  else if (e.key === 'End') goto(e.ctrlKey ? total.value - 1 : r, columns.value.length - 1, e.shiftKey)
  else if (e.key === 'PageDown' || e.key === 'PageUp') goto(r + (e.key === 'PageDown' ? 15 : -15), c, e.shiftKey)
  else if (e.key === 'Delete') {
    if (may.value && box.value.r0 < total.value)
      void attempt(async () => {
        await ensure(box.value.r0, box.value.r1)
        emit(
          'remove',
          chosen().map((x) => x.id),
        )
      })
  } else if (e.key.length === 1 && !e.ctrlKey && !e.metaKey && !e.altKey) edit(e.key)
  else return
  e.preventDefault()
}
function copy(e: ClipboardEvent) {
  if (editing.value) return
  const all = Math.min(box.value.r1, total.value - 1) - box.value.r0 + 1
  if (chosen().length < all) {
    // What is not here cannot be put on the clipboard at once; it is fetched, and the next try has it.
    e.preventDefault()
    void attempt(async () => {
      await ensure(box.value.r0, box.value.r1)
      throw new Error(`${all} rows are here now. Press Ctrl C once more to copy them.`)
    })
    return
  }
  const { c0, c1 } = box.value
  const lines = chosen().map((row) =>
    columns.value
      .slice(c0, c1 + 1)
      .map((col) => show(row, col.key))
      .join('\t'),
  )
  e.clipboardData?.setData('text/plain', lines.join('\n'))
  e.preventDefault()
}
/** The rows of the selection that are here. */
const chosen = () => Array.from({ length: box.value.r1 - box.value.r0 + 1 }, (_, i) => rowAt(box.value.r0 + i)).filter((r) => !!r) as Schemas['GridRow'][]
/** Changes that are shown before they are made. */
const proposal = ref<{ label: string; cells: Cell[]; view: Schemas['CellsView'] } | null>(null)
async function propose(label: string, cells: Cell[]) {
  const view = await post<Schemas['CellsView']>('/cells/preview', { cells })
  if (view.records) proposal.value = { label, cells, view }
  void nextTick(() => document.querySelector<HTMLElement>('#apply-proposal')?.focus())
}
async function applyProposal() {
  const { cells, label } = proposal.value!
  if (await attempt(() => post('/cells', { cells, label }))) proposal.value = null
  await reload()
  focusCell()
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
    await ensure(box.value.r0, box.value.r0 + lines.length - 1)
    const cells = lines.flatMap((line, i) => {
      const row = rowAt(box.value.r0 + i)
      const id = row?.id ?? newId(kind.value!.key)
      return line.split('\t').flatMap((value, j) => {
        const col = columns.value[box.value.c0 + j]
        return col ? [cell(row, id, col.key, value)] : []
      })
    })
    await propose(`Pasted ${lines.length} row${lines.length === 1 ? '' : 's'} into the ${plural.value} of ‘${props.title}’`, cells)
  })
}
/** Fills the selection with its first row; a series counts its last number on. */
function fill(series: boolean) {
  void attempt(async () => {
    await ensure(box.value.r0, box.value.r1)
    const rows = chosen()
    if (rows.length < 2) return
    const keys = columns.value
      .slice(box.value.c0, box.value.c1 + 1)
      .filter((c) => !c.isShown)
      .map((c) => c.key)
    await propose(
      `${series ? 'Filled a series into' : 'Filled down'} ${rows.length - 1} rows of ‘${props.title}’`,
      rows.slice(1).flatMap((row, i) =>
        keys.map((key) => {
          const start = show(rows[0]!, key)
          const value = series ? start.replace(/(\d+)(?!.*\d)/, (n) => String(Number(n) + i + 1).padStart(n.length, '0')) : start
          return cell(row, row.id, key, value)
        }),
      ),
    )
  })
}
const replacing = ref<{ column: string; find: string; replace: string; view: Schemas['ReplaceView'] | null } | null>(null)
const replaceRequest = () => ({
  scope: props.scope,
  words: words.value,
  filter: filtering.value ? filter.value : '',
  column: replacing.value!.column,
  find: replacing.value!.find,
  replace: replacing.value!.replace,
})
const previewReplace = () =>
  attempt(async () => (replacing.value!.view = await post<Schemas['ReplaceView']>(`/grid/${kind.value!.key}/replace/preview`, replaceRequest())))
async function applyReplace() {
  if (await attempt(() => post(`/grid/${kind.value!.key}/replace`, replaceRequest()), `Replaced in ${replacing.value!.view?.count} ${plural.value}`))
    replacing.value = null
}
function sortBy(key: string) {
  sort.value = sort.value === key ? `-${key}` : sort.value === `-${key}` ? '' : key
}
</script>

<template>
  <section class="points" :aria-label="plural[0]!.toUpperCase() + plural.slice(1)" @copy="copy" @paste="paste">
    <div class="head">
      <h2>
        <select :value="kind?.key" class="field kind" aria-label="What is listed" @change="choose(($event.target as HTMLSelectElement).value)">
          <option v-for="k in kinds" :key="k.key" :value="k.key">{{ k.nouns[0]!.plural[0]!.toUpperCase() + k.nouns[0]!.plural.slice(1) }}</option>
        </select>
        of {{ title }}
      </h2>
      <button class="btn small" @click="store.selected = scope">Properties</button>
      <span class="pill">{{ said(total) }}</span>
      <input v-if="!filtering" v-model.lazy="words" class="field words" placeholder="words" :aria-label="`Filter ${plural} by words`" />
      <input v-else v-model.lazy="filter" class="field words mono" placeholder="point and temp" :aria-label="`Filter ${plural} by tags`" />
      <label v-if="kind?.isTagged" class="dim tiny"><input v-model="filtering" type="checkbox" /> tag filter</label>
      <span v-if="filterError" class="wrong">{{ filterError }}</span>
      <label class="dim tiny"
        >Group by
        <select v-model="group" class="field" aria-label="Group by">
          <option value="">nothing</option>
          <option v-for="g in groupings" :key="g.key" :value="g.key">{{ g.label.toLowerCase() }}</option>
        </select></label
      >
      <select
        v-if="groups.length > 1"
        class="field jump"
        value=""
        aria-label="Go to a group"
        @change="goto(Number(($event.target as HTMLSelectElement).value), 0)"
      >
        <option value="">{{ groups.length }} groups…</option>
        <option v-for="g in groups" :key="g.label" :value="g.from">{{ g.label }} ({{ g.count }})</option>
      </select>
      <span class="space" />
      <button v-if="may" class="btn small" @click="replacing = { column: 'name', find: '', replace: '', view: null }">Replace…</button>
      <span class="choose"
        ><button class="btn small" :aria-expanded="choosing" @click="choosing = !choosing">Columns</button>
        <span v-if="choosing" class="sheet menu"
          ><span v-for="(c, i) in ordered.slice(1)" :key="c.key" class="one"
            ><label
              ><input
                type="checkbox"
                :checked="!hidden.includes(c.key)"
                @change="hidden = hidden.includes(c.key) ? hidden.filter((k) => k !== c.key) : [...hidden, c.key]"
              />
              {{ c.label }}</label
            ><span class="space" /><button class="btn small" :disabled="i === 0" :aria-label="`${c.label} further left`" @click="move(c.key, -1)">←</button
            ><button class="btn small" :disabled="i === ordered.length - 2" :aria-label="`${c.label} further right`" @click="move(c.key, 1)">→</button></span
          ></span
        ></span
      >
    </div>
    <div ref="scroller" class="scroll" :class="{ long: total > 40 }">
      <table class="grid" @keydown="key">
        <thead>
          <tr>
            <th
              v-for="c in columns"
              :key="c.key"
              :style="{ textAlign: c.isNumber ? 'right' : 'left' }"
              :aria-sort="sort === c.key ? 'ascending' : sort === `-${c.key}` ? 'descending' : 'none'"
            >
              <button class="sort" @click="sortBy(c.key)">
                {{ c.label }}{{ c.unit ? `, ${c.unit}` : '' }} {{ sort === c.key ? '↑' : sort === `-${c.key}` ? '↓' : '' }}
              </button>
            </th>
            <th>Check</th>
            <th v-if="isPoints" style="text-align: right">Now</th>
          </tr>
        </thead>
        <tbody>
          <tr v-if="firstLine > 0" :style="{ height: firstLine * ROW + 'px' }" aria-hidden="true">
            <td :colspan="columns.length + 2"></td>
          </tr>
          <template
            v-for="{ r, head, row } in windowLines.map((l) => ({ r: l.r ?? -1, head: l.head, row: l.r === undefined ? undefined : rowAt(l.r) }))"
            :key="head ? `g${head.from}` : r"
          >
            <tr v-if="head" class="group">
              <td :colspan="columns.length + 2">
                <b>{{ head.label }}</b> <span class="dim">{{ head.count }}</span>
              </td>
            </tr>
            <tr v-else-if="!row" :style="{ height: ROW + 'px' }">
              <td :colspan="columns.length + 2" class="dim">…</td>
            </tr>
            <tr v-else :class="{ sel: store.selected === row.id }">
              <td
                v-for="(c, i) in columns"
                :key="c.key"
                :class="{ num: c.isNumber, in: inBox(r, i) }"
                tabindex="0"
                :data-cell="`${r},${i}`"
                @focus="!editing && (at.r !== r || at.c !== i) && (at = from = { r, c: i })"
                @mousedown.shift.prevent="at = { r, c: i }"
                @dblclick="edit()"
              >
                <template v-if="editing && at.r === r && at.c === i">
                  <select v-if="c.choices.length" v-model="text" class="cell-edit field" @change="commit()" @blur="commit()">
                    <option v-for="o in c.choices" :key="o">{{ o }}</option>
                  </select>
                  <input v-else v-model="text" class="cell-edit field" @blur="commit()" />
                </template>
                <template v-else
                  ><b v-if="i === 0">{{ row.name }}</b
                  ><template v-else>{{ show(row, c.key) }}</template
                  ><span v-if="c.isShown && c.hint && !show(row, c.key)" class="wrong">{{ c.hint }}</span>
                  <span v-if="i === 0 && row.ownerId !== scope" class="dim owner">{{
                    isPoints ? row.owner : row.path.split(' › ').slice(-2).join(' › ')
                  }}</span></template
                >
              </td>
              <td>
                <span v-if="row.findings" class="amber-text" :title="row.worstFinding ?? ''">▲ {{ row.findings }}</span
                ><span v-else title="no findings">✓</span>
              </td>
              <td v-if="isPoints" class="num">
                <button class="now" :title="`Why? Open the dossier of ${row.name}`" @click="store.selected = row.id">
                  <LiveText :id="`p:${row.id}`" />
                </button>
              </td>
            </tr>
          </template>
          <tr v-if="lastLine < lines" :style="{ height: (lines - lastLine) * ROW + 'px' }" aria-hidden="true">
            <td :colspan="columns.length + 2"></td>
          </tr>
          <tr v-if="may && kind?.canBegin">
            <td class="in-new" tabindex="0" :data-cell="`${total},0`" :id="`new-${kind?.key}`" @focus="at = from = { r: total, c: 0 }" @click="edit()">
              <input v-if="editing && at.r === total" v-model="text" class="cell-edit field" :placeholder="`name of the new ${noun}`" @blur="commit()" />
              <span v-else class="dim">+ type a name for {{ kind?.nouns[0]?.one ? `a new ${kind.nouns[0].one}` : `a new ${noun}` }}</span>
            </td>
            <td :colspan="columns.length + 1" class="dim"></td>
          </tr>
        </tbody>
      </table>
    </div>
    <p>
      <span class="dim tiny"><kbd>Ctrl C</kbd> <kbd>Ctrl V</kbd> spreadsheet · <kbd>Ctrl D</kbd> fill down · <kbd>Ctrl ⇧ D</kbd> series</span>
    </p>
    <ModalBox v-if="proposal" label="What would change" wide @close="proposal = null">
      <h2>{{ said(Number(proposal.view.count)) }} changes</h2>
      <div class="lines">
        <p v-for="(l, i) in proposal.view.lines" :key="i" class="mono tiny">{{ l }}</p>
        <p v-if="Number(proposal.view.count) > proposal.view.lines.length" class="dim">
          The first {{ proposal.view.lines.length }} are shown; all of them are made.
        </p>
      </div>
      <p class="acts">
        <button id="apply-proposal" class="btn main" @click="applyProposal">Make them</button><button class="btn" @click="proposal = null">Leave</button>
      </p>
    </ModalBox>
    <ModalBox v-if="replacing" label="Find and replace" wide @close="replacing = null">
      <form @submit.prevent="replacing.view ? applyReplace() : previewReplace()">
        <h2>Find and replace in {{ said(total) }} {{ plural }}</h2>
        <label class="row"
          ><span>In</span
          ><select v-model="replacing.column" class="field" @change="replacing!.view = null">
            <option v-for="f in kind?.replace ?? []" :key="f.key" :value="f.key">{{ f.label.toLowerCase() }}s</option>
          </select></label
        >
        <label class="row"><span>Find</span><input id="find-text" v-model="replacing.find" class="field" required @input="replacing!.view = null" /></label>
        <label class="row"
          ><span>Put instead</span><input v-model="replacing.replace" class="field" aria-label="Put instead" @input="replacing!.view = null"
        /></label>
        <div v-if="replacing.view" class="lines">
          <p>{{ replacing.view.count }} would change</p>
          <p v-for="(c, i) in replacing.view.cells" :key="i" class="tiny">
            <span class="mono">{{ c.before }} → {{ c.after }}</span> <span class="dim">{{ c.path }}</span>
          </p>
        </div>
        <p class="acts">
          <button class="btn main" :disabled="replacing.view?.count === 0">
            {{ replacing.view ? `Replace in ${replacing.view.count}` : 'See what would change' }}</button><button
            type="button"
            class="btn"
            @click="replacing = null"
          >
            Leave
          </button>
        </p>
      </form>
    </ModalBox>
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
  overflow: auto;
}
.scroll.long {
  max-height: 62vh;
}
.scroll thead th {
  position: sticky;
  top: 0;
  background: var(--paper);
  z-index: 1;
}
tbody tr {
  height: 31px;
}
table.grid tbody td {
  white-space: nowrap;
  height: 30px;
  padding-top: 0;
  padding-bottom: 0;
}
.kind {
  font: inherit;
}
.sort {
  border: 0;
  background: none;
  padding: 0;
  font-weight: 500;
  color: var(--ink-2);
  cursor: pointer;
}
.words {
  width: 190px;
}
.tiny {
  font-size: 12.5px;
}
.choose {
  position: relative;
}
.menu {
  position: absolute;
  right: 0;
  z-index: 5;
  display: grid;
  white-space: nowrap;
}
.one {
  display: flex;
  gap: 4px;
  align-items: center;
}
.jump {
  width: 130px;
}
.group td {
  background: var(--sunk);
}
.lines {
  max-height: 46vh;
  overflow: auto;
}
.acts {
  display: flex;
  gap: 8px;
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
