import { expect, it } from 'vitest'
import { readNumber } from './readNumber'
import { compare, stepTo } from './records'

it('reads numbers as people write them, and says what is none', () => {
  for (const n of [0, 21.5, -3.25, 1e-7, 123456, -0.5]) expect(readNumber(String(n)).value).toBe(n)
  expect([readNumber('21,5').value, readNumber('−4').value, readNumber('.5').value, readNumber(' ').value]).toEqual([21.5, -4, 0.5, null])
  for (const bad of ['warm', '1.2.3', '1,2,3', '12 °C', '0x10', 'Infinity', '--1']) expect(readNumber(bad).wrong).toContain(`‘${bad}’ is not a number`)
})
it('puts names in the order people count in', () => {
  expect(['Fan-coil 10', 'fan-coil 2', 'Boiler'].sort(compare)).toEqual(['Boiler', 'fan-coil 2', 'Fan-coil 10'])
})
it('never steps out of a list', () => {
  for (const key of ['ArrowUp', 'ArrowDown', 'PageUp', 'PageDown', 'Home', 'End', 'x'])
    for (const length of [0, 1, 5])
      for (let at = 0; at < Math.max(1, length); at++) {
        const to = stepTo(key, at, length)
        expect(to).toBeGreaterThanOrEqual(0)
        expect(to).toBeLessThan(Math.max(1, length))
      }
  expect([stepTo('End', 0, 5), stepTo('Home', 4, 5), stepTo('PageDown', 1, 40)]).toEqual([4, 0, 13])
})
