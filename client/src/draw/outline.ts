interface Corner {
  x: number
  y: number
}

/** Corners as somebody writes them, each x,y in metres: 0,0 10,0 10,7 0,7; or the first word that is no corner. */
export function readCorners(text: string): { list: Corner[]; bad?: string } {
  const words = text.trim().split(/[\s;]+/).filter(Boolean) // prettier-ignore
  const bad = words.find((w) => !/^[+-]?\d*\.?\d+,[+-]?\d*\.?\d+$/.test(w))
  return { bad, list: bad === undefined ? words.map((w) => w.split(',').map(Number)).map(([x, y]) => ({ x: x!, y: y! })) : [] }
}
export const sayCorners = (outline: readonly Corner[]) => outline.map((c) => `${c.x},${c.y}`).join('  ')

/** What corners enclose, in square metres, by the shoelace formula. */
export const areaOf = (c: readonly Corner[]) => Math.abs(c.reduce((sum, a, i) => sum + a.x * c[(i + 1) % c.length]!.y - c[(i + 1) % c.length]!.x * a.y, 0)) / 2
