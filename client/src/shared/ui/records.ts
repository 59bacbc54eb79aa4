/** What a column of a record table shows. `sort` gives what rows are put in order by. */
export interface Column<T> {
  key: string
  title: string
  width?: number
  isNumber?: boolean
  sort?: (row: T) => string | number
}

/** What may be done with records of a list: offered in a row's menu, and for several ticked at once where `many`. */
export interface Action<T> {
  label: string
  run: (rows: T[]) => unknown
  many?: boolean
  /** A key that does it for the chosen row: Delete, or a letter. */
  key?: string
  when?: (row: T) => boolean
}

const order = new Intl.Collator('en', { numeric: true, sensitivity: 'base' }).compare
/** The order of what people name and count: 2 before 10, whatever the letters' case. */
export const compare = (a: string | number, b: string | number) => (typeof a === 'number' && typeof b === 'number' ? a - b : order(String(a), String(b)))

/** Which column rows are in order of, and which way. */
export interface Sorting {
  key: string
  down: boolean
}
/** Rows in the order of one of their columns, or as they came. */
export function inOrder<T>(rows: readonly T[], columns: readonly Column<T>[], by: Sorting | null): readonly T[] {
  const of = by && columns.find((c) => c.key === by.key)?.sort
  return of ? [...rows].sort((a, b) => compare(of(a), of(b)) * (by.down ? -1 : 1)) : rows
}

/** The place in a list that a key leads to from another one; the same where it leads nowhere. */
export function stepTo(key: string, at: number, length: number, page = 12): number {
  const to = { ArrowDown: at + 1, ArrowUp: at - 1, PageDown: at + page, PageUp: at - page, Home: 0, End: length - 1 }[key]
  return to === undefined || !length ? at : Math.max(0, Math.min(length - 1, to))
}
