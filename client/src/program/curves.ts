import type { Schemas } from '../shared/api/http'

export interface Band {
  unit: string
  low: string
  high: string
  curves: { name: string; at: number; path: string }[]
}

const WIDTH = 400
const HEIGHT = 100
const PAD = 4

/** Draws curves on fields of 400 × 100, one for each unit, whose scale holds all of its curves; each keeps its place among all. */
export function drawCurves(curves: readonly Schemas['TuningCurve'][]): Band[] {
  const units = [...new Set(curves.map((c) => c.unit ?? ''))]
  return units.map((unit) => {
    const own = curves.map((c, at) => ({ ...c, at })).filter((c) => (c.unit ?? '') === unit)
    const all = own.flatMap((c) => c.values)
    const low = Math.min(...all)
    const high = Math.max(...all)
    const digits = high - low < 10 ? 2 : 0
    const y = (v: number) => (high > low ? HEIGHT - PAD - ((v - low) / (high - low)) * (HEIGHT - 2 * PAD) : HEIGHT / 2)
    const path = (values: readonly number[]) =>
      values.map((v, i) => `${i ? 'L' : 'M'}${((i * WIDTH) / Math.max(1, values.length - 1)).toFixed(1)} ${y(v).toFixed(1)}`).join('')
    return { unit, low: low.toFixed(digits), high: high.toFixed(digits), curves: own.map((c) => ({ name: c.name, at: c.at, path: path(c.values) })) }
  })
}
