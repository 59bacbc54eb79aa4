import { computed, nextTick, ref, watch, type Ref } from 'vue'
import { post, type Schemas } from '../../api/http'
import { newId } from '../../api/records'
import { useStore } from '../../store'
import { useDo } from '../../useDo'
import type { GridRows, Row } from './useGridRows'
import { boxOf, inSeries, isIn, readSheet } from './window'

type Cell = Schemas['CellEdit']
interface Grid {
  kind: Ref<{ key: string }>
  scope: () => string
  title: () => string
  plural: Ref<string>
  all: Ref<Schemas['FieldView'][]>
  columns: Ref<Schemas['FieldView'][]>
  rows: GridRows
  root: Ref<HTMLElement | undefined>
  /** Brings a row into sight. */
  reveal: (row: number) => void
}
interface Spot {
  r: number
  c: number
}

/** Choosing cells, changing them where they stand, copying, pasting and filling them like a spreadsheet's. What a text means, the server says. */
export function useGridCells(at: Ref<Spot>, { kind, scope, title, plural, all, columns, rows, root, reveal }: Grid) {
  const store = useStore()
  const attempt = useDo()
  const from = ref({ ...at.value })
  const editing = ref(false)
  const text = ref('')
  const may = computed(() => store.may('engineer'))
  const box = computed(() => boxOf(at.value, from.value))
  // What is selected is fetched ahead, so that copying it, which cannot wait, has it at hand.
  watch(box, (b) => rows.isFew(b.r0, b.r1) && b.r1 > b.r0 && void rows.ensure(b.r0, b.r1).catch(() => {}))
  const show = (row: Row, key: string) => row.cells[all.value.findIndex((c) => c.key === key)] ?? ''
  /** A text for one field of a row; of a row that is not there yet, what it will be and belong to. */
  const cell = (row: Row | undefined, id: string, field: string, value: string): Cell =>
    row ? { id: row.id, field, text: value, from: row.revision } : { id, field, text: value, from: 0, kind: kind.value.key, ownerId: scope() }
  /** The rows of the selection that are here. */
  const chosen = () => Array.from({ length: box.value.r1 - box.value.r0 + 1 }, (_, i) => rows.at(box.value.r0 + i)).filter((r) => !!r) as Row[]
  const focusCell = () => void nextTick(() => root.value?.querySelector<HTMLElement>(`[data-cell="${at.value.r},${at.value.c}"]`)?.focus())

  async function commit(stay = false) {
    if (!editing.value) return
    editing.value = false
    const { r, c } = at.value
    const row = rows.at(r)
    const key = columns.value[c]!.key
    if (row ? text.value.trim() === show(row, key) : !text.value.trim()) return
    const done = await attempt(async () => {
      await post('/cells', { body: { cells: [cell(row, newId(kind.value.key), key, text.value)] } })
      await rows.reload()
    })
    if (!done && stay) editing.value = true
    else focusCell()
  }
  function edit(start?: string) {
    if (!may.value) return
    const { r, c } = at.value
    if (!rows.at(r) && (r < rows.total.value || c > 0)) return
    const current = rows.at(r) ? show(rows.at(r)!, columns.value[c]!.key) : ''
    // Where only some words will do, the first letter chooses the word.
    const options = columns.value[c]!.choices
    text.value = start === undefined ? current : options.length ? (options.find((o) => o.startsWith(start.toLowerCase())) ?? current) : start
    editing.value = true
    void nextTick(() => {
      const input = root.value?.querySelector<HTMLInputElement>('.cell-edit')
      input?.focus()
      if (start === undefined && input instanceof HTMLInputElement) input.select()
    })
  }
  function goto(r: number, c: number, extend = false) {
    at.value = { r: Math.max(0, Math.min(rows.total.value, r)), c: Math.max(0, Math.min(columns.value.length - 1, c)) }
    reveal(at.value.r)
    if (!extend) from.value = { ...at.value }
    focusCell()
  }
  async function keyWhileEditing(e: KeyboardEvent) {
    const { r, c } = at.value
    if (e.key === 'Enter' || e.key === 'Tab') {
      e.preventDefault()
      await commit(true)
      if (!editing.value) goto(e.key === 'Enter' ? r + (e.shiftKey ? -1 : 1) : r, e.key === 'Tab' ? c + (e.shiftKey ? -1 : 1) : c)
    } else if (e.key === 'Escape') {
      e.stopPropagation()
      editing.value = false
      focusCell()
    }
  }
  /** What a key does where it leads to another cell: by how many rows and columns, or to an end. */
  function steps(e: KeyboardEvent): [number, number] | undefined {
    const { r, c } = at.value
    return {
      ArrowUp: [r - 1, c],
      ArrowDown: [r + 1, c],
      ArrowLeft: [r, c - 1],
      ArrowRight: [r, c + 1],
      Home: [e.ctrlKey ? 0 : r, 0],
      End: [e.ctrlKey ? rows.total.value - 1 : r, columns.value.length - 1],
      PageDown: [r + 15, c],
      PageUp: [r - 15, c],
    }[e.key] as [number, number] | undefined
  }
  function key(e: KeyboardEvent, remove: (ids: string[]) => void) {
    if (editing.value) return void keyWhileEditing(e)
    const step = steps(e)
    const meta = e.ctrlKey || e.metaKey
    if (step) goto(...step, e.shiftKey)
    else if (e.key === 'F2' || e.key === 'Enter') edit()
    else if (meta && e.key.toLowerCase() === 'd' && may.value) fill(e.shiftKey)
    else if (e.key === 'Delete') {
      if (may.value && box.value.r0 < rows.total.value)
        void attempt(async () => {
          await rows.ensure(box.value.r0, box.value.r1)
          remove(chosen().map((x) => x.id))
        })
    } else if (e.key.length === 1 && !meta && !e.altKey) edit(e.key)
    else return
    e.preventDefault()
    e.stopPropagation()
  }
  function copy(e: ClipboardEvent) {
    if (editing.value) return
    const count = Math.min(box.value.r1, rows.total.value - 1) - box.value.r0 + 1
    e.preventDefault()
    if (chosen().length < count) {
      // What is not here cannot be put on the clipboard at once; it is fetched, and the next try has it.
      void attempt(async () => {
        await rows.ensure(box.value.r0, box.value.r1)
        throw new Error(`${count} rows are here now. Press Ctrl C once more to copy them.`)
      })
      return
    }
    const fields = columns.value.slice(box.value.c0, box.value.c1 + 1)
    e.clipboardData?.setData('text/plain', chosen().map((row) => fields.map((f) => show(row, f.key)).join('\t')).join('\n')) // prettier-ignore
  }
  /** Changes that are shown before they are made. */
  const proposal = ref<{ label: string; cells: Cell[]; view: Schemas['CellsView'] } | null>(null)
  async function propose(label: string, cells: Cell[]) {
    const view = await post('/cells/preview', { body: { cells } })
    if (view.records) proposal.value = { label, cells, view }
  }
  async function applyProposal() {
    const { cells, label } = proposal.value!
    if (await attempt(() => post('/cells', { body: { cells, label } }))) proposal.value = null
    await rows.reload()
    focusCell()
  }
  async function paste(e: ClipboardEvent) {
    if (editing.value || !may.value) return
    e.preventDefault()
    const lines = readSheet(e.clipboardData?.getData('text/plain') ?? '')
    if (!lines.length) return
    const { r0, c0 } = box.value
    await attempt(async () => {
      await rows.ensure(r0, r0 + lines.length - 1)
      const cells = lines.flatMap((line, i) => {
        const row = rows.at(r0 + i)
        const id = row?.id ?? newId(kind.value.key)
        return line.flatMap((value, j) => (columns.value[c0 + j] ? [cell(row, id, columns.value[c0 + j]!.key, value)] : []))
      })
      await propose(`Pasted ${lines.length} row${lines.length === 1 ? '' : 's'} into the ${plural.value} of ‘${title()}’`, cells)
    })
  }
  /** Fills the selection with its first row; a series counts its last number on. */
  function fill(series: boolean) {
    void attempt(async () => {
      await rows.ensure(box.value.r0, box.value.r1)
      const [start, ...others] = chosen()
      if (!start || !others.length) return
      const keys = columns.value.slice(box.value.c0, box.value.c1 + 1).flatMap((c) => (c.isShown ? [] : [c.key]))
      const value = (key: string, i: number) => (series ? inSeries(show(start, key), i + 1) : show(start, key))
      await propose(
        `${series ? 'Filled a series into' : 'Filled down'} ${others.length} rows of ‘${title()}’`,
        others.flatMap((row, i) => keys.map((key) => cell(row, row.id, key, value(key, i)))),
      )
    })
  }
  return {
    from,
    editing,
    text,
    may,
    box,
    show,
    commit,
    edit,
    goto,
    key,
    copy,
    paste,
    proposal,
    applyProposal,
    isIn: (r: number, c: number) => isIn(box.value, r, c),
  }
}
