import { expect, test } from 'vitest'
import { drawCurves } from './curves'

test('curves of one unit share a scale, and each keeps its place among all', () => {
  const [celsius, percent] = drawCurves([
    { name: 'measured', unit: '°C', values: [20, 21, 22] },
    { name: 'output', unit: '%', values: [0, 100] },
    { name: 'model', unit: '°C', values: [20, 24] },
  ])
  expect(celsius).toMatchObject({ unit: '°C', low: '20.00', high: '24.00' })
  expect(celsius!.curves.map((c) => [c.name, c.at])).toEqual([
    ['measured', 0],
    ['model', 2],
  ])
  // 20 °C is at the foot (96), 24 °C at the top (4), 22 °C halfway (50).
  expect(celsius!.curves[0]!.path).toBe('M0.0 96.0L200.0 73.0L400.0 50.0')
  expect(celsius!.curves[1]!.path).toBe('M0.0 96.0L400.0 4.0')
  expect(percent).toMatchObject({ unit: '%', low: '0', high: '100' })
})

test('what does not move is a line in the middle', () =>
  expect(drawCurves([{ name: 'x', unit: null, values: [5, 5] }])[0]!.curves[0]!.path).toBe('M0.0 50.0L400.0 50.0'))
