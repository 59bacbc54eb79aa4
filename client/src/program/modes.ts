import type { Schemas } from '../shared/api/http'
import type { Block, Sequence, Source } from '../shared/api/records'
import { withBlock } from './edits'

export type Mode = Schemas['Mode']
export type ModeColumn = Schemas['ModeColumn']

/** What a mode table begins with, as the server takes one that has none yet. */
const begin: Schemas['ModeTable'] = {
  modes: [
    { slot: 1, name: 'On' },
    { slot: 2, name: 'Off' },
  ],
  columns: [],
}
export const tableOf = (block: Block): Schemas['ModeTable'] => block.modes ?? begin
export const modesOf = (block: Block): readonly Mode[] => tableOf(block).modes ?? []
export const columnsOf = (block: Block): readonly ModeColumn[] => tableOf(block).columns ?? []

/** Inputs of the block: the condition of a mode, what ends it, and the value of a column in it. */
export const when = (mode: number) => `when${mode}`
export const until = (mode: number) => `until${mode}`
export const cell = (column: number, mode: number) => `c${column}m${mode}`
export const columnPin = (column: number) => `c${column}`

/** The number that something new gets: one that nothing has had as far as can be told, so that what runs is not taken for it. */
export const freeSlot = (taken: readonly number[], most: number) => {
  const next = Math.max(0, ...taken) + 1
  return next <= most ? next : (Array.from({ length: most }, (_, i) => i + 1).find((n) => !taken.includes(n)) ?? null)
}

const named = (names: readonly string[], word: string) => {
  for (let n = names.length + 1; ; n++) if (!names.some((x) => x.toLowerCase() === `${word} ${n}`.toLowerCase())) return `${word} ${n}`
}

/** A sequence with the table of one of its blocks changed. */
export const withTable = (s: Sequence, block: Block, patch: Partial<Schemas['ModeTable']>): Sequence =>
  withBlock(s, block.id, { modes: { ...tableOf(block), ...patch } })

/** A sequence with a mode changed. */
export const withMode = (s: Sequence, block: Block, slot: number, patch: Partial<Mode>): Sequence =>
  withTable(s, block, { modes: modesOf(block).map((m) => (m.slot === slot ? { ...m, ...patch } : m)) })

/** A sequence with one mode more, before the last, which stands when no other holds; null where there is no room. */
export function withNewMode(s: Sequence, block: Block): Sequence | null {
  const modes = modesOf(block)
  const slot = freeSlot(
    modes.map((m) => m.slot),
    16,
  )
  if (slot === null) return null
  const made = {
    slot,
    name: named(
      modes.map((m) => m.name),
      'Mode',
    ),
  }
  return withTable(s, block, { modes: [...modes.slice(0, -1), made, ...modes.slice(-1)] })
}

const kept = (inputs: Block['inputs'], gone: (pin: string) => boolean): Record<string, Source> =>
  Object.fromEntries(Object.entries(inputs ?? {}).filter(([pin]) => !gone(pin)))

/** A sequence without a mode: its conditions and cells go with it. */
export function withoutMode(s: Sequence, block: Block, slot: number): Sequence {
  const modes = modesOf(block).filter((m) => m.slot !== slot)
  const gone = (pin: string) => pin === when(slot) || pin === until(slot) || pin.endsWith(`m${slot}`)
  return withBlock(s, block.id, {
    modes: { ...tableOf(block), modes: modes.map((m) => ({ ...m, from: m.from?.filter((f) => f !== slot) })) },
    inputs: kept(block.inputs, gone),
  })
}

/** A sequence with a mode one row further up or down. */
export function withMovedMode(s: Sequence, block: Block, slot: number, by: 1 | -1): Sequence {
  const modes = [...modesOf(block)]
  const at = modes.findIndex((m) => m.slot === slot)
  const [row] = modes.splice(at, 1)
  modes.splice(at + by, 0, row!)
  return withTable(s, block, { modes })
}

/** A sequence with one column more, and its number; null where there is no room. */
export function withNewColumn(s: Sequence, block: Block, name?: string): { sequence: Sequence; slot: number } | null {
  const columns = columnsOf(block)
  const slot = freeSlot(
    columns.map((c) => c.slot),
    12,
  )
  if (slot === null) return null
  const names = columns.map((c) => c.name)
  const called = name && !names.includes(name) ? name.slice(0, 40) : named(names, name?.slice(0, 34) ?? 'Value')
  return { sequence: withTable(s, block, { columns: [...columns, { slot, name: called }] }), slot }
}

/** A sequence without a column: its cells go with it, and claims that it fed are left open. */
export function withoutColumn(s: Sequence, block: Block, slot: number): Sequence {
  const isLost = (x: Source | null | undefined) => x?.from === 'block' && x.blockId === block.id && x.pin === columnPin(slot)
  const next = withBlock(s, block.id, {
    modes: {
      ...tableOf(block),
      columns: columnsOf(block).filter((c) => c.slot !== slot),
      modes: modesOf(block).map((m) => ({ ...m, releases: m.releases?.filter((r) => r !== slot) })),
    },
    inputs: kept(block.inputs, (pin) => pin.startsWith(`c${slot}m`)),
  })
  return {
    ...next,
    blocks: next.blocks?.map((b) => ({ ...b, inputs: Object.fromEntries(Object.entries(b.inputs ?? {}).filter(([, x]) => !isLost(x))) })),
    commands: next.commands?.map((c) => ({ ...c, claims: c.claims?.map((k) => (isLost(k.source) ? { ...k, source: null } : k)) })),
  }
}

/** A sequence with a cell that says a source, is released on purpose, or (null) has not been filled in. */
export function withCell(s: Sequence, block: Block, column: number, mode: number, says: Source | 'released' | null): Sequence {
  const pin = cell(column, mode)
  const inputs = kept(block.inputs, (p) => p === pin)
  if (says && says !== 'released') inputs[pin] = says
  const releases = (m: Mode) => [...(m.releases ?? []).filter((r) => r !== column), ...(says === 'released' && m.slot === mode ? [column] : [])]
  return withBlock(s, block.id, {
    modes: { ...tableOf(block), modes: modesOf(block).map((m) => (m.slot === mode ? { ...m, releases: releases(m) } : m)) },
    inputs,
  })
}
