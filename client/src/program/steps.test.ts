import { expect, test } from 'vitest'
import { emptySlots, lineOf } from './steps'

const subjects = [
  { name: 'Room temperature', says: 'Room temperature', canBeSet: true, unit: '°C', states: [] },
  { name: 'Fan', says: '‘Fan’', canBeSet: true, unit: null, states: ['off', 'on'] },
]
const form = (word: string, ...parts: string[]) => ({ word, example: '', parts })
const said = (f: ReturnType<typeof form>, slots: object) => lineOf(f, { ...emptySlots(), ...slots }, subjects)

test('a filled form is the line that says so', () => {
  expect(said(form('set', '{point}', 'to', '{value}'), { subject: 'Room temperature', value: 30 })).toBe('set Room temperature to 30 °C')
  expect(said(form('set', '{point}', 'to', '{value}'), { subject: 'Fan', value: 'on' })).toBe('set ‘Fan’ to on')
  const expects = form('expect', '{subject}', '{condition}', 'within', '{time?}', 'for', '{time?}')
  expect(said(expects, { subject: 'Fan', value: 'on' })).toBe('expect ‘Fan’ on within 10 s')
  const times = { within: { count: null, unit: 's' }, for: { count: 5, unit: 'min' } }
  expect(said(expects, { subject: 'Room temperature', relation: 'between', value: 20, upper: 22, times })).toBe(
    'expect Room temperature between 20 °C and 22 °C for 5 min',
  )
  expect(said(expects, { subject: 'Fan', relation: 'in fault', times })).toBe('expect ‘Fan’ in fault for 5 min')
  expect(said(form('wait', '{time}'), {})).toBe('wait 5 min')
  expect(said(form('start', '{moment}'), {})).toBe('start Tuesday 08:50')
  expect(said(form('cut power for', '{time}'), {})).toBe('cut power for 5 min')
})

test('what is missing is not made up', () => {
  expect(said(form('set', '{point}', 'to', '{value}'), { subject: 'Room temperature' })).toBeNull()
  expect(said(form('set', '{point}', 'to', '{value}'), { value: 3 })).toBeNull()
  expect(
    said(form('ramp', '{point}', 'to', '{value}', 'over', '{time}'), {
      subject: 'Room temperature',
      value: 30,
      times: { over: { count: null, unit: 's' }, '': { count: null, unit: 's' } },
    }),
  ).toBeNull()
  expect(said(form('expect', '{subject}', '{condition}'), { subject: 'Room temperature', relation: 'between', value: 20 })).toBeNull()
})
