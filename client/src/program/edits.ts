import type { Schemas } from '../shared/api/http'
import type { Block, Sequence, Source } from '../shared/api/records'

type Claim = Schemas['Claim']

const blocksOf = (s: Sequence) => s.blocks ?? []
const commandsOf = (s: Sequence) => s.commands ?? []

/** A sequence with one of its blocks changed. */
export const withBlock = (s: Sequence, id: string, patch: Partial<Block>): Sequence => ({
  ...s,
  blocks: blocksOf(s).map((b) => (b.id === id ? { ...b, ...patch } : b)),
})

/** A sequence with an input of a block connected to a source, or to none. */
export function withInput(s: Sequence, id: string, pin: string, source: Source | null): Sequence {
  const { [pin]: _, ...others } = blocksOf(s).find((b) => b.id === id)?.inputs ?? {}
  return withBlock(s, id, { inputs: source ? { ...others, [pin]: source } : others })
}

/** A sequence with the claim on an output at a priority changed, added or, with null, taken off. */
export function withClaim(s: Sequence, pointId: string, priority: number, patch: Partial<Claim> | null): Sequence {
  const change = (claims: readonly Claim[]) => {
    if (!patch) return claims.filter((k) => k.priority !== priority)
    return claims.some((k) => k.priority === priority)
      ? claims.map((k) => (k.priority === priority ? { ...k, ...patch } : k))
      : [...claims, { priority, ...patch }]
  }
  return { ...s, commands: commandsOf(s).map((c) => (c.pointId === pointId ? { ...c, claims: change(c.claims ?? []) as Claim[] } : c)) }
}

/** A sequence without some parts: blocks by their ids, outputs as o:id; what led to a block that goes is left open. */
export function without(s: Sequence, ids: readonly string[]): Sequence {
  const gone = new Set(ids)
  const isLost = (x: Source | null | undefined) => x?.from === 'block' && gone.has(x.blockId)
  return {
    ...s,
    blocks: blocksOf(s)
      .filter((b) => !gone.has(b.id))
      .map((b) => ({ ...b, inputs: Object.fromEntries(Object.entries(b.inputs ?? {}).filter(([, x]) => !isLost(x))) })),
    commands: commandsOf(s)
      .filter((c) => !gone.has(`o:${c.pointId}`))
      .map((c) => ({ ...c, claims: c.claims?.map((k) => (isLost(k.source) ? { ...k, source: null } : k)) })),
  }
}

/** A sequence with copies of some of its blocks: lines among them lead among the copies, others come from where they came. */
export function duplicated(s: Sequence, ids: readonly string[], fresh: () => string): { sequence: Sequence; copies: string[] } {
  const chosen = blocksOf(s).filter((b) => ids.includes(b.id))
  const names = new Map(chosen.map((b) => [b.id, fresh()]))
  const led = (x: Source): Source => (x.from === 'block' && names.has(x.blockId) ? { ...x, blockId: names.get(x.blockId)! } : x)
  const copies = chosen.map((b) => ({
    ...b,
    id: names.get(b.id)!,
    inputs: Object.fromEntries(Object.entries(b.inputs ?? {}).map(([pin, x]) => [pin, led(x)])),
  }))
  return { sequence: { ...s, blocks: [...blocksOf(s), ...copies] }, copies: [...names.values()] }
}

/** What makes a block one of another type: pins of the same name keep their source, the rest go onto free pins in order. */
export function retyped(block: Block, type: Schemas['BlockType']): Partial<Block> {
  const sources = Object.entries(block.inputs ?? {})
  const same = sources.filter(([pin]) => type.inputs.some((i) => i.name === pin))
  const inputs: Record<string, Source> = Object.fromEntries(same)
  const spare = sources.filter(([pin]) => !(pin in inputs)).map(([, x]) => x)
  for (const pin of type.inputs) if (!inputs[pin.name] && spare.length) inputs[pin.name] = spare.shift()!
  return { kind: type.kind as Block['kind'], inputs, numbers: {}, choices: {}, tables: null, texts: null }
}
