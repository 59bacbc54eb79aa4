import ELK from 'elkjs/lib/elk.bundled.js'
import { expect, it } from 'vitest'
import type { Schemas } from '../shared/api/http'
import { layOut, shownInputs, sourceKey } from './diagram'

const type = (kind: string, inputs: string[], outputs = ['out']) =>
  ({
    kind,
    name: kind,
    inputs: inputs.map((name) => ({ name, label: name, required: name !== 'open' })),
    outputs: outputs.map((name) => ({ name })),
    numbers: [],
    choices: [],
  }) as unknown as Schemas['BlockType']
const types = new Map([type('compare', ['measured', 'limit']), type('and', ['in1', 'in2', 'open'])].map((t) => [t.kind as string, t]))
const view = {
  sequence: {
    id: 's',
    blocks: [
      { id: 'warm', kind: 'compare', inputs: { measured: { from: 'point', pointId: 'temp' }, limit: { from: 'constant', value: 29, unit: '°C' } } },
      { id: 'both', kind: 'and', inputs: { in1: { from: 'block', blockId: 'warm', pin: 'out' }, in2: { from: 'schedule', scheduleId: 'open' } } },
    ],
    commands: [{ pointId: 'fan', claims: [{ priority: 10, source: { from: 'block', blockId: 'both', pin: 'out' } }] }],
  },
  reads: [{ key: 'p:temp' }, { key: 's:open' }],
  ladders: [{ pointId: 'fan', rungs: [{ priority: 10, ownerId: 's', label: 'Extract', mine: true }] }],
  pins: [{ blockId: 'warm', pin: 'out', type: 'on/off' }],
  conversions: [],
} as unknown as Schemas['SequenceView']

it('lays a sequence out in its three lanes, left to right, with every line drawn', async () => {
  const elk = new ELK()
  const d = await layOut(view, types, (graph) => elk.layout(graph) as never)
  const at = (id: string) => d.nodes.find((n) => n.id === id)!
  for (const read of ['p:temp', 's:open']) expect(at(read).x + at(read).width).toBeLessThan(d.lanes[0])
  for (const block of ['warm', 'both']) {
    expect(at(block).x).toBeGreaterThan(d.lanes[0])
    expect(at(block).x + at(block).width).toBeLessThan(d.lanes[1])
  }
  expect(at('o:fan').x).toBeGreaterThan(d.lanes[1])
  expect(at('both').x).toBeGreaterThan(at('warm').x)
  expect(d.lines.map((l) => [l.from, l.toNode, l.toPin]).sort()).toEqual([
    ['both|>out', 'o:fan', 's@10'],
    ['p:temp|out', 'warm', 'measured'],
    ['s:open|out', 'both', 'in2'],
    ['warm|>out', 'both', 'in1'],
  ])
  expect(d.lines.every((l) => l.path.startsWith('M'))).toBe(true)
  expect(d.lines.find((l) => l.from === 'warm|>out')!.binary).toBe(true)
})
it('stands in three lanes before there is anything in it', async () => {
  const elk = new ELK()
  const nothing = { ...view, sequence: { ...view.sequence, blocks: [], commands: [] }, reads: [], ladders: [], pins: [] } as never
  const d = await layOut(nothing, types, (graph) => elk.layout(graph) as never)
  expect(d.nodes).toEqual([])
  expect(d.lanes[1] - d.lanes[0]).toBeGreaterThan(200)
  expect(d.width).toBeGreaterThan(d.lanes[1])
})
it('leaves what is not there its lane, whatever else there is', async () => {
  const elk = new ELK()
  const all = view as unknown as { sequence: object; reads: object[]; ladders: object[] }
  for (let which = 0; which < 8; which++) {
    const [reads, blocks, outputs] = [!!(which & 1), !!(which & 2), !!(which & 4)]
    const some = {
      ...all,
      sequence: {
        ...all.sequence,
        ...(blocks
          ? {}
          : { blocks: [], commands: outputs && reads ? [{ pointId: 'fan', claims: [{ priority: 10, source: { from: 'point', pointId: 'temp' } }] }] : [] }),
      },
      reads: reads ? all.reads : [],
      ladders: outputs ? all.ladders : [],
    }
    if (!reads && blocks) (some.sequence as { blocks: object[] }).blocks = [{ id: 'warm', kind: 'compare', inputs: {} }]
    const d = await layOut(some as never, types, (graph) => elk.layout(graph) as never)
    expect(d.lanes[1] - d.lanes[0]).toBeGreaterThan(100)
    expect(d.width - d.lanes[1]).toBeGreaterThan(100)
    for (const n of d.nodes) {
      const [from, to] = n.kind === 'read' ? [0, d.lanes[0]] : n.kind === 'block' ? d.lanes : [d.lanes[1], d.width]
      expect(n.x).toBeGreaterThanOrEqual(from)
      expect(n.x + n.width).toBeLessThanOrEqual(to)
    }
  }
})
it('shows the pins that are needed, connected or of a name of their own, and one open one of those that are counted', () => {
  const open = type('and', ['in1'])
  for (const name of ['in2', 'in3', 'in4', 'reset']) open.inputs.push({ name, label: name, required: false } as never)
  const block = { id: 'x', kind: 'and', inputs: { in3: { from: 'block', blockId: 'b', pin: 'out' } } }
  expect(shownInputs(block as never, open).map((p) => p.name)).toEqual(['in1', 'in2', 'in3', 'reset'])
})
it('keys what is read, and nothing for a constant', () => {
  expect(sourceKey({ from: 'constant', value: 1, binary: false } as never)).toBeNull()
  expect(sourceKey({ from: 'block', blockId: 'b', pin: 'q' } as never)).toBe('b:b.q')
})
