import { describe, expect, it, vi } from 'vitest'
vi.mock('../shared/store', () => ({ Flag: { inAlarm: 1, fault: 2, overridden: 4, outOfService: 8, stale: 16, released: 32 } }))
const { boxOf, lookOf, neighbour, scale, widthAt } = await import('./floor')

const square = (x: number, y: number, w: number, h: number) => ({
  outline: [
    { x, y },
    { x: x + w, y },
    { x: x + w, y: y + h },
    { x, y: y + h },
  ],
  label: { x: x + w / 2, y: y + h / 2 },
})

describe('a floor', () => {
  it('is as large as its rooms and a margin', () => {
    expect(boxOf([square(0, 0, 10, 4), square(12, -2, 3, 3)], 1)).toEqual({ x: -1, y: -3, w: 17, h: 8 })
  })
  it('has as much room for a label as the nearer wall leaves', () => {
    expect(widthAt(square(0, 0, 10, 4))).toBe(10)
    // An L: at the label's height the room reaches from 0 to 4, the label stands at 3.
    const l = [[0, 0], [10, 0], [10, 2], [4, 2], [4, 8], [0, 8]].map(([x, y]) => ({ x: x!, y: y! })) // prettier-ignore
    expect(widthAt({ outline: l, label: { x: 3, y: 5 } })).toBe(2)
  })
  it('is walked with the arrows: to the nearest room ahead, not the one beside', () => {
    const rooms = [
      { id: 'a', ...square(0, 0, 4, 4) },
      { id: 'b', ...square(4, 0, 4, 4) },
      { id: 'c', ...square(8, 0, 4, 4) },
      { id: 'd', ...square(4, 4, 4, 4) },
    ]
    expect(neighbour(rooms, 'a', 1, 0)).toBe('b')
    expect(neighbour(rooms, 'c', -1, 0)).toBe('b')
    expect(neighbour(rooms, 'b', 0, 1)).toBe('d')
    expect(neighbour(rooms, 'd', 0, -1)).toBe('b')
    expect(neighbour(rooms, 'c', 1, 0)).toBeNull()
  })
})

describe('how a room looks', () => {
  const read = (v: number | null, f = 0) => ({ v, f, text: v === null ? '–' : `${v.toFixed(1)} °C` })
  it('is its distance from what it is compared with, on a scale that ends', () => {
    expect(lookOf(read(22.5), read(21), 3, 'K')).toMatchObject({ value: '22.5 °C', sub: '+1.5 K', fill: scale(1.5, 3) })
    expect(scale(1.5, 3)).toContain('var(--warm) 50%')
    expect(scale(-9, 3)).toContain('var(--cold) 100%')
    expect(lookOf(read(21.02), read(21), 3, 'K').sub).toBe('±0.0 K')
    // What is simulated says so, well or in fault.
    expect(lookOf({ ...read(22.5), f: 8 }, read(21), 3, 'K').value).toBe('22.5 °C ▣')
    expect(lookOf({ ...read(22.5), f: 10 }, read(21), 3, 'K').value).toBe('✕ fault ▣')
  })
  it('is never a colour where nothing can be said', () => {
    expect(lookOf(read(22, 2), read(21), 3, 'K').fill).toBe('url(#hatch)')
    expect(lookOf(read(null, 32), read(21), 3, 'K').fill).toBe('url(#hatch)')
    expect(lookOf(read(22, 16), read(21), 3, 'K')).toMatchObject({ fill: 'url(#hatch)', value: '22.0 °C ◇' })
    expect(lookOf(read(22), undefined, 3, 'K')).toMatchObject({ fill: 'var(--sheet)', sub: '' })
    expect(lookOf(undefined, undefined, 3, 'K').value).toBe('')
  })
})
