import { describe, expect, it } from 'vitest'
import { caretLine, numbered, placeOf, replaced } from './ledger'

describe('the ledger as it is typed', () => {
  const text = 'A = not Open\nB = Tw\nC = B and A'
  it('knows the line and the place of the caret', () => {
    expect(caretLine(text, 0)).toEqual({ line: 1, text: 'A = not Open', at: 0 })
    expect(caretLine(text, 19)).toEqual({ line: 2, text: 'B = Tw', at: 6 })
    expect(caretLine(text, 13)).toEqual({ line: 2, text: 'B = Tw', at: 0 })
  })
  it('finds a place by its line, the other way round', () => {
    for (const place of [0, 5, 13, 19, text.length]) {
      const { line, at } = caretLine(text, place)
      expect(placeOf(text, line, at)).toBe(place)
    }
  })
  it('numbers lines for paper', () => expect(numbered('a\nb')).toBe('  1  a\n  2  b'))
  it('puts what is taken in place of what was typed of it, and no more', () => {
    expect(replaced(text, 19, { insert: 'Two-position (', from: 4 })).toEqual({ text: 'A = not Open\nB = Two-position (\nC = B and A', at: 31 })
    expect(replaced('B =', 3, { insert: 'A', from: 3 }).text).toBe('B = A')
  })
})
