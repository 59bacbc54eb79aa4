import { expect, it } from 'vitest'
import type { Schemas } from '../shared/api/http'
import { clock, draw, readClock, said, worth } from './lanes'

const stretch = (at: number, value: number | null, to = value, until = at, more = {}) =>
  ({ at, value, until, to, fact: '', parameter: null, sends: false, ...more }) as Schemas['StoryStretch']
const lane = (stretches: Schemas['StoryStretch'][], more = {}) =>
  ({
    device: 'd',
    channel: 'c',
    what: 'c.o',
    label: 'O',
    sort: 'driven',
    unit: '%',
    states: null,
    low: 0,
    high: 100,
    stretches,
    ...more,
  }) as Schemas['StoryLane']

it('writes and reads moments', () => {
  expect([clock(0), clock(130), clock(3730), clock(10.4)]).toEqual(['0:00', '2:10', '1:02:10', '0:10.4'])
  expect([readClock('130'), readClock('2:10'), readClock('1:02:10'), readClock('0:10,4'), readClock('soon'), readClock('1:2:3:4')]).toEqual([
    130,
    130,
    3730,
    10.4,
    null,
    null,
  ])
  for (const s of [0, 1, 59.5, 60, 3599, 3600, 86400]) expect(readClock(clock(s))).toBe(s)
})
it('draws steps, ramps and gaps', () => {
  // 100 s on 1000: a step to 100 % at 10 s, a way to 0 from 50 to 60 s. 0 % is at 23, 100 % at 3.
  expect(draw(lane([stretch(0, 0), stretch(10, 100), stretch(50, 100, 0, 60)]), 100).path).toBe('M0 23L0 23H100H100V3L100 3H500H500V3L600 23H1000')
  expect(draw(lane([stretch(0, null), stretch(50, 100)]), 100).path).toBe('M500 3L500 3H1000')
})
it('names changes by their states, and leaves out what stays', () => {
  const drawn = draw(
    lane([stretch(0, 0), stretch(5, 0), stretch(10, 1, 1, 10, { fact: 'told on', parameter: 'c.function', sends: true })], { states: ['off', 'on'], high: 1 }),
    20,
  )
  expect(drawn.changes.map((c) => [c.at, c.says, c.fact, c.parameter])).toEqual([
    [0, 'off', '', null],
    [10, 'on', 'told on', 'c.function'],
  ])
  expect(said({ states: ['up', 'rests', 'down'], low: -1, unit: '' } as never, 0)).toBe('rests')
  expect(said({ states: null, low: 0, unit: '%' } as never, null)).toBe('not known')
})
it('puts what never changes last', () => {
  const still = lane([stretch(0, 0)], { what: 'still' })
  const said = lane([stretch(0, 0), stretch(1, 1)], { what: 'said', sort: 'said' })
  const sensed = lane([stretch(0, 0), stretch(1, 1)], { what: 'sensed', sort: 'sensed' })
  expect(worth([still, said, sensed]).map((l) => l.what)).toEqual(['sensed', 'said', 'still'])
})
