import type { Schemas } from '../shared/api/http'
import { Flag } from '../shared/store'

type Room = Schemas['FloorRoom']
type Corner = Schemas['Corner']
export interface Box {
  x: number
  y: number
  w: number
  h: number
}
/** What is read at a moment: a value, its status flags, and how it is said. */
export interface Read {
  v?: number | null
  f: number
  text: string
}

/** The rectangle round all outlines, with a margin, in metres. */
export function boxOf(rooms: readonly { outline: readonly Corner[] }[], margin = 0.3): Box {
  const xs = rooms.flatMap((r) => r.outline.map((c) => c.x))
  const ys = rooms.flatMap((r) => r.outline.map((c) => c.y))
  if (!xs.length) return { x: 0, y: 0, w: 10, h: 10 }
  const [x, y] = [Math.min(...xs) - margin, Math.min(...ys) - margin]
  return { x, y, w: Math.max(...xs) - x + margin, h: Math.max(...ys) - y + margin }
}

/** How far a level line through the label stays inside the room, to the nearer side both ways, in metres. */
export function widthAt({ outline, label }: Pick<Room, 'outline' | 'label'>) {
  let [left, right] = [-Infinity, Infinity]
  outline.forEach((a, i) => {
    const b = outline[(i + 1) % outline.length]!
    if (a.y > label.y === b.y > label.y) return
    const x = a.x + ((label.y - a.y) / (b.y - a.y)) * (b.x - a.x)
    if (x <= label.x) left = Math.max(left, x)
    else right = Math.min(right, x)
  })
  return 2 * Math.min(label.x - left, right - label.x)
}

/** The room that lies nearest in a direction: what is beside counts for less than what is ahead. */
export function neighbour(rooms: readonly Pick<Room, 'id' | 'label'>[], from: string, dx: number, dy: number): string | null {
  const here = rooms.find((r) => r.id === from)?.label
  if (!here) return rooms[0]?.id ?? null
  const ahead = rooms
    .map((r) => ({
      id: r.id,
      along: (r.label.x - here.x) * dx + (r.label.y - here.y) * dy,
      aside: Math.abs((r.label.x - here.x) * dy) + Math.abs((r.label.y - here.y) * dx),
    }))
    .filter((r) => r.along > 0.01)
  return ahead.sort((a, b) => a.along + 2 * a.aside - b.along - 2 * b.aside)[0]?.id ?? null
}

export interface Look {
  fill: string
  value: string
  sub: string
  difference: number | null
}
/** The colour of a distance on a scale that ends at a span, through paper in the middle. */
export function scale(difference: number, span: number) {
  const share = Math.max(-1, Math.min(1, difference / span))
  return `color-mix(in srgb, var(--${share < 0 ? 'cold' : 'warm'}) ${Math.round(Math.abs(share) * 100)}%, var(--paper))`
}
const plain = { fill: 'var(--sheet)', value: '', sub: '', difference: null }
const hatched = { ...plain, fill: 'url(#hatch)' }
/** How a room looks: what it reads, and how far that is from what it is compared with; hatched when nothing can be said. */
export function lookOf(value: Read | undefined, other: Read | undefined, span: number | null, unit: string | null): Look {
  if (!value) return plain
  const simulated = value.f & Flag.outOfService ? ' ▣' : ''
  if (value.f & Flag.fault) return { ...hatched, value: `✕ fault${simulated}`, sub: 'sensor' }
  if (value.f & Flag.released || value.v == null) return { ...hatched, value: '○', sub: 'no value' }
  const isStale = !!(value.f & Flag.stale)
  const text = value.text + (isStale ? ' ◇' : '') + simulated
  if (span === null) return { ...plain, fill: value.v ? 'var(--plum-soft)' : 'var(--sheet)', value: text }
  if (other?.v == null) return { ...(isStale ? hatched : plain), value: text }
  const d = value.v - other.v
  return {
    fill: isStale ? 'url(#hatch)' : scale(d, span),
    value: text,
    sub: `${Math.abs(d) < 0.05 ? '±' : d > 0 ? '+' : '−'}${Math.abs(d).toFixed(1)} ${unit ?? ''}`,
    difference: d,
  }
}
