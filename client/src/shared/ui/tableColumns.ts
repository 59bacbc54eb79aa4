import { NButton, type DataTableColumns } from 'naive-ui'
import { h, type VNodeChild } from 'vue'
import { compare, type Action, type Column } from './records'

interface Table<T> {
  columns: readonly Column<T>[]
  noun: string
  words?: (row: T) => string
  slots: Record<string, ((given: { row: T }) => unknown) | undefined>
  actions?: readonly Action<T>[]
  /** Whether several rows may be ticked. */
  many: boolean
  offered: (row: T) => readonly Action<T>[]
  openMenu: (row: T, x: number, y: number) => void
}

/** The columns of a record table as the library's table takes them: cells from slots of their names, a tick before, the menu behind. */
export function tableColumns<T>({ columns, noun, words, slots, actions, many, offered, openMenu }: Table<T>): DataTableColumns<T> {
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
  if (many) list.unshift({ type: 'selection', width: 34 })
  if (actions?.length)
    list.push({ key: 'actions', title: () => h('span', { class: 'sr' }, 'Actions'), width: 46, render: (row: T) => (offered(row).length ? menu(row) : null) })
  return list
}
