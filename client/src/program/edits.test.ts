import { describe, expect, it } from 'vitest'
import type { Schemas } from '../shared/api/http'
import type { Sequence, Source } from '../shared/api/records'
import { duplicated, retyped, withClaim, withInput, without } from './edits'

const from = (blockId: string): Source => ({ from: 'block', blockId, pin: 'out' })
const point: Source = { from: 'point', pointId: 'p1' }
const sequence = {
  id: 's',
  name: 'Extract',
  equipmentId: 'e',
  blocks: [
    { id: 'a', kind: 'twoPosition', inputs: { measured: point } },
    { id: 'b', kind: 'not', inputs: { in: from('a') } },
    { id: 'c', kind: 'and', inputs: { in1: from('a'), in2: from('b') } },
  ],
  commands: [{ pointId: 'fan', claims: [{ priority: 10, source: from('c') }] }],
} as unknown as Sequence
/** All sources of a sequence that lead to blocks. */
const led = (s: Sequence) => [
  ...s.blocks!.flatMap((b) => Object.values(b.inputs ?? {})),
  ...s.commands!.flatMap((c) => c.claims!.map((k) => k.source)),
].flatMap((x) => (x?.from === 'block' ? [x.blockId] : [])) // prettier-ignore

describe('edits of a sequence', () => {
  it('leave no line to what is gone, whatever goes', () => {
    const parts = ['a', 'b', 'c', 'o:fan']
    for (let mask = 0; mask < 16; mask++) {
      const gone = parts.filter((_, i) => mask & (1 << i))
      const rest = without(sequence, gone)
      expect(led(rest).filter((id) => gone.includes(id))).toEqual([])
      expect(rest.blocks!.length).toBe(3 - gone.filter((g) => !g.startsWith('o:')).length)
    }
    expect(sequence.blocks!.length).toBe(3)
  })
  it('copy lines among the copies, and those from outside as they were', () => {
    let n = 0
    const { sequence: next, copies } = duplicated(sequence, ['b', 'c'], () => `n${++n}`)
    expect(copies).toEqual(['n1', 'n2'])
    const [b, c] = next.blocks!.slice(3)
    expect(b!.inputs).toEqual({ in: from('a') })
    expect(c!.inputs).toEqual({ in1: from('a'), in2: from('n1') })
    expect(next.commands).toEqual(sequence.commands)
  })
  it('connect, take off, claim and disclaim, and nothing else', () => {
    expect(withInput(sequence, 'b', 'in', point).blocks![1]!.inputs).toEqual({ in: point })
    expect(withInput(sequence, 'c', 'in1', null).blocks![2]!.inputs).toEqual({ in2: from('b') })
    expect(withClaim(sequence, 'fan', 10, { label: 'too warm' }).commands![0]!.claims).toEqual([{ priority: 10, source: from('c'), label: 'too warm' }])
    expect(withClaim(sequence, 'fan', 12, {}).commands![0]!.claims!.map((k) => k.priority)).toEqual([10, 12])
    expect(withClaim(sequence, 'fan', 10, null).commands![0]!.claims).toEqual([])
  })
  it('keep the sources of a block that becomes another: pins of the same name first, then in order', () => {
    const type = { kind: 'or', inputs: [{ name: 'in2' }, { name: 'in3' }, { name: 'in4' }] } as Schemas['BlockType']
    expect(retyped(sequence.blocks![2]!, type).inputs).toEqual({ in2: from('b'), in3: from('a') })
  })
})
