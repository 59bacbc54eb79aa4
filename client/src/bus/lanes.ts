import type { Schemas } from '../shared/api/http'

/** A lane on a field of 1000 × 26: its line, the moments at which it changes, and its range in words. */
export interface Drawn {
  key: string
  lane: Schemas['StoryLane']
  path: string
  range: string
  changes: Change[]
}
/** A moment at which a lane changes: where on the field (0 to 1000), when, to what, and why. */
export interface Change {
  x: number
  at: number
  says: string
  fact: string
  parameter: string | null
  sends: boolean
}

const WIDTH = 1000
const HEIGHT = 26
const PAD = 3
const round = (v: number) => `${+v.toFixed(Math.abs(v) >= 100 ? 0 : 2)}`

/** What a value of a lane is called: its state, or the number with its unit. */
export function said(lane: Pick<Schemas['StoryLane'], 'states' | 'low' | 'unit'>, value: number | null | undefined): string {
  if (value === null || value === undefined) return 'not known'
  const state = lane.states?.[Math.round(value - lane.low)]
  return state || `${round(value)}${lane.unit ? ` ${lane.unit}` : ''}`
}

/** A moment of a story: 2:10, or 1:02:10 from an hour on; parts of a second where there are any. */
export function clock(seconds: number): string {
  const whole = Math.floor(seconds + 1e-9)
  const part = Math.round((seconds - whole) * 1000)
  const [h, m, s] = [Math.floor(whole / 3600), Math.floor((whole % 3600) / 60), whole % 60]
  const two = (n: number) => String(n).padStart(2, '0')
  return `${h ? `${h}:${two(m)}` : m}:${two(s)}${part ? `.${String(part).padStart(3, '0').replace(/0+$/, '')}` : ''}`
}

/** Reads a moment or a length as it is written: 130, 2:10, 1:02:10.5; null for anything else. */
export function readClock(text: string): number | null {
  const parts = text.trim().replace(',', '.').split(':')
  if (parts.length > 3 || parts.some((p) => !/^\d+(\.\d+)?$/.test(p.trim()))) return null
  return parts.reduce((sum, p) => sum * 60 + Number(p), 0)
}

/** Draws a lane of a story of so many seconds. */
export function draw(lane: Schemas['StoryLane'], seconds: number): Drawn {
  const x = (at: number) => +((WIDTH * Math.min(at, seconds)) / seconds).toFixed(2)
  const values = lane.stretches.flatMap((s) => [s.value, s.to]).filter((v): v is number => v != null)
  const isNumber = !lane.states
  const low = isNumber && values.length && lane.unit !== '%' ? Math.min(...values) : lane.low
  const high = isNumber && values.length && lane.unit !== '%' ? Math.max(...values) : lane.high
  const y = (v: number) => +(high > low ? HEIGHT - PAD - ((v - low) / (high - low)) * (HEIGHT - 2 * PAD) : HEIGHT / 2).toFixed(2)
  let path = ''
  let last: number | null = null
  const changes: Change[] = []
  lane.stretches.forEach((s, i) => {
    const end = lane.stretches[i + 1]?.at ?? seconds
    if (s.value == null || s.to == null) {
      last = null
      return
    }
    path += last === null ? `M${x(s.at)} ${y(s.value)}` : `H${x(s.at)}V${y(s.value)}`
    path += `L${x(Math.min(s.until, end))} ${y(s.to)}H${x(end)}`
    if (s.value !== last || s.to !== s.value || s.sends)
      changes.push({ x: x(s.at), at: s.at, says: said(lane, s.to), fact: s.fact, parameter: s.parameter ?? null, sends: s.sends })
    last = s.to
  })
  const range = !values.length ? '' : lane.states ? '' : high > low ? `${round(low)}–${round(high)} ${lane.unit}` : said(lane, low)
  return { key: `${lane.device}|${lane.what}`, lane, path, range, changes }
}

/** Lanes worth looking at: what is sensed and driven, and what was said or heard; those that never change stand last. */
export function worth(lanes: readonly Schemas['StoryLane'][]): Schemas['StoryLane'][] {
  const order = { sensed: 0, driven: 1, said: 2 } as Record<string, number>
  const still = (l: Schemas['StoryLane']) => (new Set(l.stretches.flatMap((s) => [s.value, s.to])).size <= 1 ? 1 : 0)
  return [...lanes].sort((a, b) => still(a) - still(b) || order[a.sort]! - order[b.sort]!)
}
