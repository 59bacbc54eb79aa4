import { describe, expect, it } from 'vitest'
import { pathOf } from './scans'

describe('a value over kept scans', () => {
  it('lies between its least and its greatest, and spans the width', () => expect(pathOf([20, 30, 25], false)).toBe('M0.0 37.0L300.0 3.0L600.0 20.0'))
  it('steps where it is on or off', () => expect(pathOf([0, 1, 1], true)).toBe('M0.0 37.0L300.0 37.0V3.0L600.0 3.0'))
  it('has a gap where there was no value, and is level where it never changes', () => {
    expect(pathOf([5, null, 5], false)).toBe('M0.0 20.0M600.0 20.0')
    expect(pathOf([null, null], false)).toBe('')
    expect(pathOf([7], false)).toBe('M0.0 20.0')
  })
})
