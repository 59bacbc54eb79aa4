import type { Schemas } from '../shared/api/http'

/** A step of a test as it is put together in a form: what stands in each of its parts. */
export interface Slots {
  subject: string | null
  value: number | string | null
  upper: number | null
  relation: string
  times: Record<string, { count: number | null; unit: string }>
  day: string
  time: string
}

export const relations = ['is', 'above', 'below', 'between', 'released', 'in fault'] as const
export const days = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']
export const emptySlots = (): Slots => ({
  subject: null,
  value: null,
  upper: null,
  relation: 'is',
  times: { within: { count: 10, unit: 's' }, for: { count: null, unit: 'min' }, over: { count: 10, unit: 'min' }, '': { count: 5, unit: 'min' } },
  day: 'Tuesday',
  time: '08:50',
})

type Form = Schemas['StepFormView']
type Subject = Schemas['SubjectView']

const number = (value: number | string | null, subject?: Subject) =>
  value === null || value === '' ? null : `${value}${subject?.unit && typeof value === 'number' ? ` ${subject.unit}` : ''}`

function condition(s: Slots, subject?: Subject) {
  const value = number(s.value, subject)
  if (s.relation === 'released' || s.relation === 'in fault') return s.relation
  if (subject?.states.length || s.relation === 'is') return value
  if (s.relation !== 'between') return value && `${s.relation} ${value}`
  const upper = number(s.upper, subject)
  return value && upper && `between ${value} and ${upper}`
}

/** The line of text that a filled form stands for; null while something is missing. What can be left out is, where it is empty. */
export function lineOf(form: Form, s: Slots, subjects: readonly Subject[]): string | null {
  const subject = subjects.find((x) => x.name === s.subject)
  const words = [form.word]
  for (let i = 0; i < form.parts.length; i++) {
    const part = form.parts[i]!
    const next = form.parts[i + 1]
    if (!part.startsWith('{')) {
      // A word of the grammar goes with the part behind it, and is left out with it.
      if (next?.endsWith('?}') && !s.times[part]?.count) i++
      else words.push(part)
      continue
    }
    const before = form.parts[i - 1] ?? ''
    const said = {
      point: () => subject?.says ?? null,
      subject: () => subject?.says ?? null,
      value: () => number(s.value, subject),
      condition: () => condition(s, subject),
      moment: () => (s.day && s.time ? `${s.day} ${s.time}` : null),
      time: () => {
        const { count, unit } = s.times[before.startsWith('{') ? '' : before] ?? s.times['']!
        return count ? `${count} ${unit}` : null
      },
    }[part.slice(1, -1).replace('?', '') as 'point' | 'subject' | 'value' | 'condition' | 'moment' | 'time']()
    if (said === null) return null
    words.push(said)
  }
  return words.join(' ')
}
