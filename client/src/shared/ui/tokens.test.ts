import { describe, expect, it } from 'vitest'
import { dark, light, type Tokens } from './tokens'

/** Relative luminance and contrast by the formula of WCAG 2.2 (relative luminance, contrast ratio). */
function luminance(hex: string) {
  const [r, g, b] = [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16) / 255).map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4))
  return 0.2126 * r! + 0.7152 * g! + 0.0722 * b!
}
function ratio(a: string, b: string) {
  const [high, low] = [luminance(a), luminance(b)].sort((x, y) => y - x)
  return (high! + 0.05) / (low! + 0.05)
}
type Name = keyof Tokens
const grounds: Name[] = ['paper', 'sheet', 'sunk', 'plum-soft', 'moss-soft', 'amber-soft', 'crimson-soft', 'sky-soft', 'ember-soft']
const accents: Name[] = ['plum', 'moss', 'amber', 'crimson', 'sky', 'ember']
const pairs: [Name, Name][] = [
  ...grounds.flatMap((g): [Name, Name][] => [
    ['ink', g],
    ['ink-2', g],
  ]),
  ...accents.flatMap((a) => (['paper', 'sheet', 'sunk', `${a}-soft`] as Name[]).map((g): [Name, Name] => [a, g])),
  ['ink', 'cold'],
  ['ink', 'warm'],
  ['on-russet', 'russet'],
  ['on-bar', 'bar'],
  ['on-bar', 'bar-2'],
]

describe('colours', () => {
  it('has the formula of the standard: black on white is 21 to 1', () => {
    expect(ratio('#000000', '#ffffff')).toBeCloseTo(21, 9)
    expect(ratio('#855300', '#855300')).toBe(1)
  })
  for (const [theme, tokens] of Object.entries({ light, dark })) {
    it.each(pairs)(`${theme}: %s on %s reaches AA, 4.5 to 1 (WCAG 2.2, 1.4.3)`, (text, ground) => {
      expect(ratio(tokens[text], tokens[ground])).toBeGreaterThanOrEqual(4.5)
    })
    it(`${theme}: the edge of a control stands off its ground, 3 to 1 (1.4.11)`, () => {
      for (const ground of ['paper', 'sheet'] as const) expect(ratio(tokens.edge, tokens[ground])).toBeGreaterThanOrEqual(3)
    })
  }
})
