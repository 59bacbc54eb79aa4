import type { Schemas } from '../shared/api/http'

type Span = Schemas['Span']
export const DAY = 1440
/** What times snap to while a stretch is drawn, in minutes. */
export const SNAP = 15

/** Minutes since midnight of a time such as 07:30; 24:00 is the end of the day. */
export const minutes = (time: string) => Number(time.slice(0, 2)) * 60 + Number(time.slice(3, 5))
/** The time of so many minutes since midnight. */
export const clock = (m: number) => `${String(Math.floor(m / 60)).padStart(2, '0')}:${String(m % 60).padStart(2, '0')}`

/** The time under a pointer over a ribbon of a day, snapped. */
export const timeAt = (x: number, ribbon: { left: number; width: number }) =>
  Math.max(0, Math.min(DAY, Math.round((((x - ribbon.left) / ribbon.width) * DAY) / SNAP) * SNAP))

/** A stretch that is being drawn anew, or one of whose ends is being moved. */
export interface Drag {
  group: number
  index: number
  end: 'from' | 'to' | 'new'
  from: number
  to: number
}
/** The drag after the pointer has gone to a time: an end never passes the other. */
export function dragged(drag: Drag, to: number): Drag {
  if (drag.end === 'new') return { ...drag, to }
  return drag.end === 'from' ? { ...drag, from: Math.min(to, drag.to - SNAP) } : { ...drag, to: Math.max(to, drag.from + SNAP) }
}
/** The stretches of a day once a drag has ended, in order; none where nothing was drawn. */
export function spansAfter(spans: readonly Span[], drag: Drag, value: number): Span[] | null {
  const [from, to] = [Math.min(drag.from, drag.to), Math.max(drag.from, drag.to)]
  if (to - from < SNAP) return null
  const drawn = { from: clock(from), to: clock(to) }
  const next = drag.end === 'new' ? [...spans, { ...drawn, value }] : spans.map((s, i) => (i === drag.index ? { ...s, ...drawn } : s))
  return next.sort((a, b) => minutes(a.from) - minutes(b.from))
}
/** Where a stretch stands in its ribbon. */
export const placed = (from: number, to: number) => ({
  left: `${(Math.min(from, to) / DAY) * 100}%`,
  width: `${(Math.abs(to - from) / DAY) * 100}%`,
})
