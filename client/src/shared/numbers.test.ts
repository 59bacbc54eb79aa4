import { expect, it } from 'vitest'
import { count, many, siteTime, when } from './numbers'

// 2026-03-29 00:59:30 UTC, half a minute before the clocks of Europe/London go forward (EU Directive 2000/84/EC: 01:00 UTC on the last Sunday of March).
const before = Date.UTC(2026, 2, 29, 0, 59, 30)

it('says dates as ISO 8601 orders them and times in 24 h, by the zone’s own clock', () => {
  expect(when(before, 'Europe/London')).toBe('2026-03-29 00:59')
  expect(when(before + 60_000, 'Europe/London')).toBe('2026-03-29 02:00')
  expect(siteTime(before + 60_000, 'Europe/London', true, true)).toBe('Sun 2026-03-29 02:00:30')
  expect(siteTime(Date.UTC(2026, 0, 1), 'UTC')).toBe('00:00')
  expect(when(null)).toBe('–')
})
it('counts as people read it', () => {
  expect([count(12450), count(null), many(1, 'alarm'), many(1200, 'alarm')]).toEqual(['12,450', '0', '1 alarm', '1,200 alarms'])
})
