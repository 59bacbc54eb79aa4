import { NButton, NCheckbox, type DataTableColumns } from 'naive-ui'
import { h, type VNodeChild } from 'vue'
import { compare, type Action, type Column } from './records'

interface Table<T> {
  columns: readonly Column<T>[]
  noun: string
  plural: string
  words?: (row: T) => string
  slots: Record<string, ((given: { row: T }) => unknown) | undefined>
  actions?: readonly Action<T>[]
  /** Where several rows may be ticked: which are, and what a tick does to some of them. */
  ticks: { rows: readonly T[]; has: (row: T) => boolean; set: (rows: readonly T[], on: boolean) => void } | null
  offered: (row: T) => readonly Action<T>[]
  openMenu: (row: T, x: number, y: number) => void
}

/** The columns of a record table as the library's table takes them: cells from slots of their names, a tick before, the menu behind. */
export function tableColumns<T>({ columns, noun, plural, words, slots, actions, ticks, offered, openMenu }: Table<T>): DataTableColumns<T> {
  const menu = (row: T) =>
    h(
      NButton,
      {
        quaternary: true,
        size: 'small',
        focusable: false,
        'aria-label': `What to do with the ${noun} ${words?.(row) ?? ''}`.trim(),
        onClick: (e: MouseEvent) => {
          e.stopPropagation()
          const box = (e.currentTarget as HTMLElement).getBoundingClientRect()
          openMenu(row, box.right, box.bottom)
        },
      },
      () => '⋯',
    )
  const list: DataTableColumns<T> = columns.map((c) => ({
    key: c.key,
    title: c.title,
    width: c.width,
    align: c.isNumber ? 'right' : 'left',
    className: c.isNumber ? 'num' : undefined,
    sorter: c.sort ? (a: T, b: T) => compare(c.sort!(a), c.sort!(b)) : undefined,
    render: (row: T) => (slots[c.key]?.({ row }) ?? String((row as Record<string, unknown>)[c.key] ?? '')) as VNodeChild,
  }))
  if (ticks) {
    const tick = (label: string, rows: readonly T[], checked: boolean, indeterminate = false) =>
      h(NCheckbox, { checked, indeterminate, focusable: rows.length !== 1, 'aria-label': label, 'onUpdate:checked': (on: boolean) => ticks.set(rows, on) })
    const on = ticks.rows.filter(ticks.has).length
    list.unshift({
      key: 'ticks',
      width: 34,
      title: () => tick(`Tick all ${plural}`, ticks.rows, on > 0 && on === ticks.rows.length, on > 0 && on < ticks.rows.length),
      render: (row: T) => tick(`Tick the ${noun} ${words?.(row) ?? ''}`.trim(), [row], ticks.has(row)),
    })
  }
  if (actions?.length)
    list.push({ key: 'actions', title: () => h('span', { class: 'sr' }, 'Actions'), width: 46, render: (row: T) => (offered(row).length ? menu(row) : null) })
  return list
}
