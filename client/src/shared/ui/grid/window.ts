/** A group of rows: its label, and the row that it begins at. */
export interface Group {
  label: string
  from: number
  count: number
}
export type Line = { row: number; head?: undefined } | { row?: undefined; head: Group }

/** How many groups begin at this row or before; groups are in order of their rows. */
export function begun(groups: readonly Group[], row: number) {
  let low = 0
  let high = groups.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (groups[middle]!.from <= row) low = middle + 1
    else high = middle
  }
  return low
}

/** The line that a row stands on: each group has a line of its own above its first row. */
export const lineOf = (groups: readonly Group[], row: number) => row + begun(groups, row)

/** The lines from one to before another: rows, and the heads of groups. Costs what is drawn, not what is above. */
export function linesOf(groups: readonly Group[], first: number, last: number): Line[] {
  let low = 0
  let high = groups.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (groups[middle]!.from + middle < first) low = middle + 1
    else high = middle
  }
  const lines: Line[] = []
  for (let at = first, g = low; at < last; at++) {
    if (g < groups.length && groups[g]!.from + g === at) lines.push({ head: groups[g++]! })
    else lines.push({ row: at - g })
  }
  return lines
}

/** What lies between two cells, corners included. */
export interface Box {
  r0: number
  r1: number
  c0: number
  c1: number
}
export const boxOf = (a: { r: number; c: number }, b: { r: number; c: number }): Box => ({
  r0: Math.min(a.r, b.r),
  r1: Math.max(a.r, b.r),
  c0: Math.min(a.c, b.c),
  c1: Math.max(a.c, b.c),
})
export const isIn = (box: Box, r: number, c: number) => r >= box.r0 && r <= box.r1 && c >= box.c0 && c <= box.c1

/** A spreadsheet's text as rows of cells; the last line's end is none of its own. */
export function readSheet(text: string) {
  const lines = text.replace(/\r/g, '').split('\n')
  if (lines.length > 1 && !lines.at(-1)) lines.pop()
  return lines.length === 1 && !lines[0] ? [] : lines.map((l) => l.split('\t'))
}

/** The text that comes so many steps after one in a series: its last number counts on, as many digits wide. */
export const inSeries = (text: string, step: number) => text.replace(/(\d+)(?!.*\d)/, (n) => String(Number(n) + step).padStart(n.length, '0'))
