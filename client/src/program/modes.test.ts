import { describe, expect, it } from 'vitest'
import type { Block, Sequence } from '../shared/api/records'
import { cell, freeSlot, modesOf, until, when, withCell, withMovedMode, withNewColumn, withNewMode, withoutColumn, withoutMode } from './modes'

const table = (): Block => ({
  id: 'm',
  kind: 'modes',
  modes: {
    modes: [
      { slot: 1, name: 'Frost' },
      { slot: 3, name: 'Day', from: [1] },
      { slot: 2, name: 'Off', releases: [1] },
    ],
    columns: [{ slot: 1, name: 'Fan' }],
  },
  inputs: {
    [when(1)]: { from: 'point', pointId: 'a' },
    [until(1)]: { from: 'point', pointId: 'b' },
    [when(3)]: { from: 'point', pointId: 'c' },
    [cell(1, 1)]: { from: 'constant', value: 0, binary: true },
    [cell(1, 3)]: { from: 'constant', value: 1, binary: true },
  },
})
const sequence = (b: Block): Sequence =>
  ({
    id: 's',
    name: 's',
    equipmentId: 'e',
    blocks: [b],
    commands: [{ pointId: 'p', claims: [{ priority: 10, source: { from: 'block', blockId: 'm', pin: 'c1' } }] }],
  }) as unknown as Sequence
const block = (s: Sequence | null) => s!.blocks![0]!

describe('edits of a mode table', () => {
  it('puts a new mode before the last, under a number that none has had', () => {
    const made = block(withNewMode(sequence(table()), table()))
    expect(modesOf(made).map((m) => [m.slot, m.name])).toEqual([
      [1, 'Frost'],
      [3, 'Day'],
      [4, 'Mode 4'],
      [2, 'Off'],
    ])
    expect(freeSlot([1, 2, 16], 16)).toBe(3)
    expect(freeSlot([1, 2], 2)).toBeNull()
  })
  it('takes with a mode its conditions, its cells and where others come from', () => {
    const left = block(withoutMode(sequence(table()), table(), 1))
    expect(Object.keys(left.inputs!)).toEqual([when(3), cell(1, 3)])
    expect(modesOf(left)[0]!.from).toEqual([])
  })
  it('moves a row and keeps all that hangs on it', () => {
    const moved = block(withMovedMode(sequence(table()), table(), 3, -1))
    expect(modesOf(moved).map((m) => m.slot)).toEqual([3, 1, 2])
    expect(moved.inputs).toEqual(table().inputs)
  })
  it('fills a cell, releases it on purpose and empties it', () => {
    const b = table()
    const filled = block(withCell(sequence(b), b, 1, 2, { from: 'constant', value: 1, binary: true }))
    expect([filled.inputs![cell(1, 2)], modesOf(filled)[2]!.releases]).toEqual([{ from: 'constant', value: 1, binary: true }, []])
    const released = block(withCell(sequence(b), b, 1, 3, 'released'))
    expect([released.inputs![cell(1, 3)], modesOf(released)[1]!.releases]).toEqual([undefined, [1]])
    const emptied = block(withCell(sequence(b), b, 1, 2, null))
    expect(modesOf(emptied)[2]!.releases).toEqual([])
  })
  it('leaves open what a column fed that goes, and names columns apart', () => {
    const s = withoutColumn(sequence(table()), table(), 1)
    expect(s.commands![0]!.claims![0]!.source).toBeNull()
    expect(Object.keys(block(s).inputs!)).toEqual([when(1), until(1), when(3)])
    expect(withNewColumn(sequence(table()), table(), 'Fan')).toMatchObject({ slot: 2 })
    expect(block(withNewColumn(sequence(table()), table(), 'Fan')!.sequence).modes!.columns!.map((c) => c.name)).toEqual(['Fan', 'Fan 2'])
  })
})
