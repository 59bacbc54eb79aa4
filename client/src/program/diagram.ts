import type { ElkExtendedEdge, ElkNode } from 'elkjs/lib/elk-api'
import type { Schemas } from '../shared/api/http'
import type { Block, Source } from '../shared/api/records'

/** A node of the diagram where the layout put it: what is read, a block, or a commanded output. */
export type DiagramNode = {
  id: string
  kind: 'read' | 'block' | 'output'
  x: number
  y: number
  width: number
  height: number
  inputs: { pin: string; y: number }[]
  outputs: { pin: string; y: number }[]
}
/** A line with the live id of what flows in it; the target pin is where it can be taken hold of. */
export type DiagramLine = {
  id: string
  from: string
  toNode: string
  toPin: string
  path: string
  liveId: string
  binary: boolean
  conversion?: string
  middle: { x: number; y: number }
}
export type Diagram = { nodes: DiagramNode[]; lines: DiagramLine[]; width: number; height: number; lanes: [number, number] }

/** How wide a lane is while nothing is in it. */
const LANE = { reads: 150, decides: 200, commands: 160 }
export const READ = { width: 168, height: 42 }
export const BLOCK = { width: 178, head: 27, row: 18, setting: 17 }
export const OUTPUT = { width: 226, head: 34, row: 26 }

/** The key of what a source reads, as the view lists it; null for none and constants, which are shown at the pin. */
export function sourceKey(source: Source | undefined | null): string | null {
  if (!source) return null
  if (source.from === 'point') return `p:${source.pointId}`
  if (source.from === 'schedule') return `s:${source.scheduleId}${source.ahead ? '/ahead' : ''}`
  if (source.from === 'block') return `b:${source.blockId}.${source.pin}`
  return null
}

/** How many rows of settings a block shows in the diagram. */
export const settingsOf = (definition: Schemas['BlockType']) =>
  Math.min(3, definition.numbers.length + definition.choices.length + (definition.texts?.length ?? 0) + (definition.tables?.length ?? 0))

/** The input pins a block shows: all that have a name of their own or are connected; of those that are alike and only counted, one open one where more may follow; quiet ones only where something flows in. */
export function shownInputs(block: Block, definition: Schemas['BlockType']) {
  const connected = (name: string) => !!block.inputs?.[name]
  let spare = 1
  const flows = (name: string) => connected(name) && block.inputs![name]!.from !== 'constant'
  return definition.inputs.filter((p) => (p.isQuiet ? flows(p.name) : p.required || connected(p.name) || !/^in\d$/.test(p.name) || spare-- > 0))
}

/** Lays a sequence out in its three lanes: reads, decides, commands. Nobody drags boxes. */
export async function layOut(
  view: Schemas['SequenceView'],
  definitions: Map<string, Schemas['BlockType']>,
  layout: (graph: ElkNode) => Promise<ElkNode>,
): Promise<Diagram> {
  const children: ElkNode[] = []
  const edges: (ElkExtendedEdge & { meta: { from: string; toNode: string; toPin: string; liveId: string } })[] = []
  const sequence = view.sequence
  const shapes = new Map((view.shapes ?? []).map((x) => [x.blockId, x.definition]))
  const port = (id: string, side: 'WEST' | 'EAST', y: number, width: number) => ({
    id,
    x: side === 'WEST' ? 0 : width,
    y,
    width: 0,
    height: 0,
    layoutOptions: { 'elk.port.side': side },
  })
  const fixed = { 'elk.portConstraints': 'FIXED_POS' }
  for (const read of view.reads)
    children.push({
      id: read.key,
      ...READ,
      ports: [port(`${read.key}|out`, 'EAST', 21, READ.width)],
      layoutOptions: { ...fixed, 'elk.layered.layering.layerConstraint': 'FIRST_SEPARATE' },
    })
  for (const block of sequence.blocks ?? []) {
    const definition = shapes.get(block.id) ?? definitions.get(block.kind)!
    const top = BLOCK.head + settingsOf(definition) * BLOCK.setting
    const pins = shownInputs(block, definition)
    // One output is beside the name; several have rows of their own below the inputs.
    const own = definition.outputs.length > 1
    const height = top + (pins.length + (own ? definition.outputs.length : 0)) * BLOCK.row + 5
    children.push({
      id: block.id,
      width: BLOCK.width,
      height,
      ports: [
        ...pins.map((p, i) => port(`${block.id}|${p.name}`, 'WEST', top + i * BLOCK.row + 9, BLOCK.width)),
        ...definition.outputs.map((p, i) => port(`${block.id}|>${p.name}`, 'EAST', own ? top + (pins.length + i) * BLOCK.row + 9 : 13, BLOCK.width)),
      ],
      layoutOptions: fixed,
    })
    for (const p of pins) connect(block.inputs?.[p.name], block.id, p.name)
  }
  for (const ladder of view.ladders) {
    const command = sequence.commands?.find((c) => c.pointId === ladder.pointId)
    children.push({
      id: `o:${ladder.pointId}`,
      width: OUTPUT.width,
      height: OUTPUT.head + (ladder.rungs.length + 1) * OUTPUT.row + 4,
      ports: ladder.rungs.map((r, i) => port(`o:${ladder.pointId}|${r.ownerId}@${r.priority}`, 'WEST', OUTPUT.head + i * OUTPUT.row + 13, OUTPUT.width)),
      layoutOptions: { ...fixed, 'elk.layered.layering.layerConstraint': 'LAST_SEPARATE' },
    })
    for (const claim of command?.claims ?? []) connect(claim.source, `o:${ladder.pointId}`, `${sequence.id}@${claim.priority}`)
  }
  function connect(source: Source | undefined | null, node: string, pin: string) {
    const key = sourceKey(source)
    if (!key) return
    const from = source!.from === 'block' ? `${source!.blockId}|>${source!.pin ?? 'out'}` : `${key}|out`
    if (source!.from === 'block' && !sequence.blocks?.some((b) => b.id === source!.blockId)) return
    const liveId = source!.from === 'block' ? `b:${sequence.id}/${source!.blockId}/${source!.pin ?? 'out'}` : key
    edges.push({
      id: `${from}→${node}|${pin}`,
      sources: [from],
      targets: [`${node}|${pin}`],
      meta: { from, toNode: node, toPin: pin, liveId },
    })
  }
  const root: ElkNode = {
    id: 'root',
    layoutOptions: {
      'elk.algorithm': 'layered',
      'elk.direction': 'RIGHT',
      'elk.edgeRouting': 'ORTHOGONAL',
      'elk.spacing.nodeNode': '20',
      'elk.layered.spacing.nodeNodeBetweenLayers': '52',
      'elk.layered.nodePlacement.strategy': 'NETWORK_SIMPLEX',
      'elk.layered.considerModelOrder.strategy': 'NODES_AND_EDGES',
      'elk.separateConnectedComponents': 'false',
      'elk.padding': '[top=36,left=14,bottom=14,right=14]',
    },
    children,
    edges,
  }
  const graph = await layout(root)
  // A lane with nothing in it has its room all the same, so that what stands beside it stands in its own.
  const isOutput = (id: string) => id.startsWith('o:')
  const outputsFrom = Math.min(...(graph.children ?? []).filter((n) => isOutput(n.id)).map((n) => n.x ?? 0))
  const [before, between, after] = [view.reads.length ? 0 : LANE.reads, sequence.blocks?.length ? 0 : LANE.decides, view.ladders.length ? 0 : LANE.commands]
  const moved = (x: number) => x + before + (x >= outputsFrom ? between : 0)
  const nodes: DiagramNode[] = (graph.children ?? []).map((n) => ({
    id: n.id,
    kind: isOutput(n.id) ? 'output' : /^[ps]:/.test(n.id) ? 'read' : 'block',
    x: moved(n.x ?? 0),
    y: n.y ?? 0,
    width: n.width ?? 0,
    height: n.height ?? 0,
    inputs: (n.ports ?? []).filter((p) => p.x === 0).map((p) => ({ pin: p.id.split('|')[1]!, y: p.y ?? 0 })),
    outputs: (n.ports ?? []).filter((p) => p.x !== 0).map((p) => ({ pin: p.id.split('|')[1]!.replace('>', ''), y: p.y ?? 0 })),
  }))
  const types = new Map(view.pins.map((p) => [`${p.blockId}|>${p.pin}`, p.type]))
  const lines = edges.map((e) => {
    const laid = (graph.edges ?? []).find((x) => x.id === e.id)?.sections?.[0]
    const points = (laid ? [laid.startPoint, ...(laid.bendPoints ?? []), laid.endPoint] : []).map((p) => ({ x: moved(p.x), y: p.y }))
    const end = points.at(-1) ?? { x: 0, y: 0 }
    return {
      id: e.id,
      ...e.meta,
      binary: types.get(e.meta.from) === 'on/off',
      conversion: view.conversions.find((c) =>
        c.blockId
          ? c.blockId === e.meta.toNode && c.pin === e.meta.toPin
          : e.meta.toNode === `o:${c.pin.split('@')[0]}` && e.meta.toPin.endsWith(`@${c.pin.split('@')[1]}`),
      )?.text,
      path: points.map((p, i) => `${i ? 'L' : 'M'}${p.x} ${p.y}`).join(''),
      middle: { x: end.x - 24, y: end.y - 5 },
    }
  })
  const reads = nodes.filter((n) => n.kind === 'read')
  const outputs = nodes.filter((n) => n.kind === 'output')
  const width = (graph.width ?? 0) + before + between + after + 10
  return {
    nodes,
    lines,
    width,
    height: Math.max(graph.height ?? 200, 240),
    lanes: [
      reads.length ? Math.max(...reads.map((n) => n.x + n.width)) + 14 : LANE.reads,
      outputs.length ? Math.min(...outputs.map((n) => n.x)) - 18 : width - LANE.commands,
    ],
  }
}
