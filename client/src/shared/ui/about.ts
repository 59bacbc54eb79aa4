import type { Schemas } from '../api/http'
import { count } from '../numbers'

type About = Pick<Schemas['FieldView'], 'about' | 'unit' | 'least' | 'most' | 'isSpan'>

/** What a field is, its unit and its limits, in a sentence or two, as its kind declares them. */
export function about({ about, unit, least, most, isSpan }: About): string {
  const range =
    least != null && most != null
      ? `${count(least)} to ${count(most)}`
      : least != null
        ? `${count(least)} or more`
        : most != null
          ? `at most ${count(most)}`
          : ''
  const takes = [range, unit].filter(Boolean).join(' ')
  return [about, takes && `${range ? '' : 'In '}${takes}${isSpan ? ', or written as 1 h 30 min' : ''}.`].filter(Boolean).join(' ')
}
