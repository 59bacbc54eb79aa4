import { describe, expect, it } from 'vitest'
import { begun, boxOf, inSeries, isIn, lineOf, linesOf, readSheet, type Group } from './window'

/** The same by going through everything from the top. */
function slowly(groups: Group[], rows: number) {
  const lines = []
  for (let row = 0; row < rows; row++) {
    for (const head of groups.filter((g) => g.from === row)) lines.push({ head })
    lines.push({ row })
  }
  return lines
}
let seed = 7
const random = (n: number) => (seed = (seed * 48271) % 2147483647) % n

describe('the window of a grid', () => {
  it('draws what a walk from the top would, wherever it is, with whatever groups', () => {
    for (let round = 0; round < 200; round++) {
      const rows = 1 + random(60)
      const starts = [...new Set([0, ...Array.from({ length: random(12) }, () => random(rows))])].sort((a, b) => a - b)
      const groups = random(4) ? starts.map((from, i) => ({ label: `g${i}`, from, count: (starts[i + 1] ?? rows) - from })) : []
      const all = slowly(groups, rows)
      const first = random(all.length)
      const last = Math.min(all.length, first + 1 + random(20))
      expect(linesOf(groups, first, last)).toEqual(all.slice(first, last))
      const row = random(rows)
      expect(lineOf(groups, row)).toBe(all.findIndex((l) => 'row' in l && l.row === row))
      expect(begun(groups, row)).toBe(groups.filter((g) => g.from <= row).length)
    }
  })
  it('has both corners in a box, whichever was first', () => {
    const box = boxOf({ r: 5, c: 1 }, { r: 2, c: 3 })
    expect(box).toEqual({ r0: 2, r1: 5, c0: 1, c1: 3 })
    expect([isIn(box, 2, 1), isIn(box, 5, 3), isIn(box, 6, 3), isIn(box, 3, 0)]).toEqual([true, true, false, false])
  })
})

describe('a spreadsheet’s text', () => {
  it('has rows and cells, empty ones too, and no row after its last line’s end', () => {
    expect(readSheet('a\tb\r\n\tc\r\n')).toEqual([
      ['a', 'b'],
      ['', 'c'],
    ])
    expect(readSheet('')).toEqual([])
    expect(readSheet('a\n\nb')).toEqual([['a'], [''], ['b']])
  })
  it('counts a series on from its last number, as many digits wide', () => {
    expect(inSeries('AHU 2 fan 09', 3)).toBe('AHU 2 fan 12')
    expect(inSeries('Lamp', 3)).toBe('Lamp')
    expect(inSeries('T99', 1)).toBe('T100')
  })
})
