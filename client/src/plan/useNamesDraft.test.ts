import { expect, it } from 'vitest'
import { conventionOf, draftOf, wrongLineOf } from './useNamesDraft'

const kinds = ['floor', 'room', 'network name']
const convention = {
  id: 'naming-convention',
  name: 'House names',
  rules: [{ for: 'room', pattern: '{building}-{n}', letters: undefined, longest: 40, case: 'upper' as const, unique: 'floor' as const }],
  abbreviations: { temperature: 'temp', 'air handler': 'AHU' },
  words: ['kiln', 'glaze'],
  checksSpelling: false,
}

it('says the same convention again, whatever kinds have no rule', () => {
  expect(conventionOf(draftOf(convention, kinds), convention)).toEqual(convention)
})
it('takes words apart at spaces, commas and semicolons, in small letters, each once', () => {
  const draft = { ...draftOf(convention, kinds), words: 'Kiln, glaze;kiln\n slip' }
  expect(conventionOf(draft, convention).words).toEqual(['kiln', 'glaze', 'slip'])
})
it('names the line that is no abbreviation', () => {
  const draft = draftOf(convention, kinds)
  expect(wrongLineOf(draft)).toBeUndefined()
  expect(wrongLineOf({ ...draft, abbreviations: 'supply = SUP\nsupply SUP' })).toBe('supply SUP')
  expect(wrongLineOf({ ...draft, abbreviations: 'a = b = c' })).toBe('a = b = c')
})
