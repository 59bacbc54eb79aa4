import { describe, expect, it } from 'vitest'
import { clock, dragged, minutes, spansAfter, timeAt, type Drag } from './ribbon'

describe('a day’s ribbon', () => {
  it('says every minute of a day as a time and back', () => {
    for (let m = 0; m <= 1440; m++) expect(minutes(clock(m))).toBe(m)
    expect(clock(1440)).toBe('24:00')
  })
  it('has noon in its middle, snaps to a quarter of an hour and never leaves the day', () => {
    const ribbon = { left: 100, width: 480 }
    expect(timeAt(340, ribbon)).toBe(720)
    expect(timeAt(340 + 2, ribbon)).toBe(720) // 6 minutes
    expect(timeAt(340 + 3, ribbon)).toBe(735) // 9 minutes
    expect([timeAt(0, ribbon), timeAt(9999, ribbon)]).toEqual([0, 1440])
  })
  it('lets no end pass the other', () => {
    const drag: Drag = { group: 0, index: 0, end: 'from', from: 540, to: 600 }
    expect(dragged(drag, 900).from).toBe(585)
    expect(dragged({ ...drag, end: 'to' }, 0).to).toBe(555)
  })
  it('keeps stretches in order of their beginning, whichever way they were drawn', () => {
    const spans = [{ from: '09:00', to: '12:00', value: 1 }]
    expect(spansAfter(spans, { group: 0, index: -1, end: 'new', from: 480, to: 420 }, 2)).toEqual([{ from: '07:00', to: '08:00', value: 2 }, ...spans])
    expect(spansAfter(spans, { group: 0, index: -1, end: 'new', from: 480, to: 490 }, 2)).toBeNull()
    expect(spansAfter(spans, { group: 0, index: 0, end: 'to', from: 540, to: 780 }, 9)).toEqual([{ from: '09:00', to: '13:00', value: 1 }])
  })
})
