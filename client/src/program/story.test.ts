import { expect, test } from 'vitest'
import { drawStory, findKinds } from './story'

const line = (values: (number | null)[], isBinary = false, unit: string | null = '°C') => ({ pin: 'out', label: 'out', isInput: false, isBinary, unit, values })

test('a number goes from the bottom of its range to the top, and a gap begins the line anew', () => {
  const [strip] = drawStory([line([20, 24, null, 22])])
  expect(strip!.path).toBe('M0 20.0L40 2.0M120 11.0')
  expect(strip!.range).toBe('20 … 24 °C')
})

test('contacts step, a steady value lies in the middle, and what says nothing says so', () => {
  expect(drawStory([line([0, 1, 1], true)])[0]!.path).toBe('M0 20.0H53.3V2.0H106.7V2.0')
  expect(drawStory([line([5, 5])])[0]).toMatchObject({ path: 'M0 11.0L80 11.0', range: '5 °C' })
  expect(drawStory([line([null, null])])[0]).toMatchObject({ path: '', range: 'released' })
})

test('kinds are found by need, by family, and by how their name begins', () => {
  const kinds = [
    { name: 'Minimum on and off', words: 'keep for at least do not chatter', kind: 'minimumTimes' as const, group: 'Control' },
    { name: 'Off-delay', words: 'tof hold for', kind: 'tof' as const, group: 'Time' },
    { name: 'At least', words: 'two of three', kind: 'atLeast' as const, group: 'Logic' },
  ]
  expect(findKinds(kinds, 'keep for at least').map((k) => k.name)).toEqual(['Minimum on and off'])
  expect(findKinds(kinds, 'at least').map((k) => k.name)).toEqual(['At least', 'Minimum on and off'])
  expect(findKinds(kinds, 'time').map((k) => k.name)).toEqual(['Minimum on and off', 'Off-delay'])
  expect(findKinds(kinds, '')).toHaveLength(3)
})
