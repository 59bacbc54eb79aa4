import { expect, it } from 'vitest'
import { areaOf, readCorners, sayCorners } from './outline'

it('reads what it says, and names what is no corner', () => {
  const l = [{ x: 0, y: 0 }, { x: 10, y: 0 }, { x: 10, y: 2.5 }, { x: -4, y: 2.5 }] // prettier-ignore
  expect(readCorners(sayCorners(l))).toEqual({ list: l, bad: undefined })
  expect(readCorners('0,0 10;0 1').bad).toBe('10')
  expect(readCorners('0,0 a,b').bad).toBe('a,b')
  expect(readCorners('')).toEqual({ list: [], bad: undefined })
})
it('has the area of a triangle, half its base times its height, whichever way round', () => {
  const triangle = readCorners('0,0 6,0 0,4').list
  expect(areaOf(triangle)).toBe(12)
  expect(areaOf([...triangle].reverse())).toBe(12)
})
