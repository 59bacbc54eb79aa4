import { computed, ref, watch, type Ref } from 'vue'
import { get, type Schemas } from '../../api/http'
import { useStore } from '../../store'
import { lineOf, linesOf } from './window'

export type Row = Schemas['GridRow']
/** What is asked of a list: the kind, where, and what it is narrowed down, sorted and grouped by. */
export interface Question {
  key: string
  scope: string
  words: string
  filter: string
  sort: string
  group: string
}
const PAGE = 200
export const ROW = 31
/** How many rows may be worked on at once. */
const MOST = 2000

/** The rows of a list that may be long: those that are seen are fetched, and drawn; the rest once it is scrolled to. */
export function useGridRows(question: Ref<Question>, y: Ref<number>, height: Ref<number>, selected: Ref<number>) {
  const store = useStore()
  const total = ref(0)
  const filterError = ref('')
  const loaded = ref(new Map<number, Row>())
  const groups = ref<Schemas['RowGroup'][]>([])
  const count = computed(() => total.value + groups.value.length)
  const firstLine = computed(() => Math.max(0, Math.floor(y.value / ROW) - 8))
  const lastLine = computed(() => Math.min(count.value, Math.ceil((y.value + (height.value || 600)) / ROW) + 8))
  const lines = computed(() => linesOf(groups.value, firstLine.value, lastLine.value))
  const rows = computed(() => lines.value.flatMap((l) => (l.row === undefined ? [] : [l.row])))
  const first = computed(() => rows.value[0] ?? 0)
  const last = computed(() => (rows.value.at(-1) ?? -1) + 1)
  const pages = () => new Set([Math.floor(first.value / PAGE), Math.floor(Math.max(first.value, last.value - 1) / PAGE)])
  const pending = new Set<number>()
  let turn = 0
  function ask(offset: number, count: number) {
    const { key, ...query } = question.value
    return get('/grid/{key}', { path: { key }, query: { ...query, offset, count } }).catch(() => null)
  }
  async function fetchPage(page: number) {
    if (pending.has(page)) return
    pending.add(page)
    const mine = turn
    const answer = await ask(page * PAGE, PAGE)
    if (mine !== turn) return
    pending.delete(page)
    if (!answer) return
    total.value = answer.counting ? Math.max(total.value, answer.total) : answer.total
    groups.value = answer.groups
    if (answer.counting) void recount(mine)
    filterError.value = answer.filterError ?? ''
    answer.rows.forEach((row, i) => loaded.value.set(page * PAGE + i, row))
    loaded.value = new Map(loaded.value)
  }
  /** The first rows come before the rest is counted; this asks how many there are. */
  async function recount(mine: number) {
    const answer = await ask(1, 1)
    if (answer && mine === turn) total.value = answer.total
  }
  /** Fetches rows that are not here yet, so that nothing of a selection is left out in silence. */
  async function ensure(from: number, to: number) {
    const end = Math.min(to, total.value - 1)
    if (end - from >= MOST)
      throw new Error(`${end - from + 1} rows are selected; copy, fill and paste work on at most ${MOST} at once. Use Export for a whole list, or Replace.`)
    const missing = new Set<number>()
    for (let n = from; n <= end; n++) if (!loaded.value.has(n)) missing.add(Math.floor(n / PAGE))
    for (const page of missing) await fetchPage(page)
    for (let n = from; n <= end; n++) if (!loaded.value.has(n)) throw new Error('Some of these rows could not be fetched. Nothing was done; try again.')
  }
  /** Fetches again what is seen and what is selected; the rest is forgotten. */
  async function reload(other = false) {
    turn++
    pending.clear()
    const wanted = other ? new Set([0]) : pages().add(Math.floor(selected.value / PAGE))
    for (const n of [...loaded.value.keys()]) if (!wanted.has(Math.floor(n / PAGE))) loaded.value.delete(n)
    await Promise.all([...wanted].map(fetchPage))
    for (const n of [...loaded.value.keys()]) if (n >= total.value) loaded.value.delete(n)
  }
  watch(
    () => JSON.stringify(question.value),
    () => {
      loaded.value = new Map()
      total.value = 0
      groups.value = []
      void reload(true)
    },
    { immediate: true },
  )
  watch(
    () => store.lastChange?.revision,
    () => void reload(),
  )
  watch([first, last], () => {
    for (const page of pages())
      if (page * PAGE < total.value && rows.value.some((n) => Math.floor(n / PAGE) === page && !loaded.value.has(n))) void fetchPage(page)
  })
  return {
    total,
    filterError,
    groups,
    count,
    firstLine,
    lastLine,
    lines,
    rows,
    ensure,
    reload,
    at: (n: number) => loaded.value.get(n),
    top: (row: number) => lineOf(groups.value, row) * ROW,
    isFew: (a: number, b: number) => b - a < MOST,
  }
}
export type GridRows = ReturnType<typeof useGridRows>
