import { reactive } from 'vue'

/** What has been typed into ledgers and is not kept yet, by sequence, with the revision it was written from: it stays while one looks elsewhere. */
export const unkept = reactive(new Map<string, { text: string; from: number }>())

/** The line of a text in which a place stands: its number from 1, its text, and the place in it. */
export function caretLine(text: string, place: number): { line: number; text: string; at: number } {
  const before = text.slice(0, place).split('\n')
  const at = before.at(-1)!.length
  return { line: before.length, text: text.split('\n')[before.length - 1]!, at }
}

/** A text in which an offer stands in place of what was written of it up to a place, and the place behind it. */
export function replaced(text: string, place: number, offer: { insert: string; from: number }): { text: string; at: number } {
  const { at } = caretLine(text, place)
  const from = place - at + Math.max(0, Math.min(offer.from, at))
  const before = text.slice(0, from)
  const glue = before.length && /[=(,;:←]$/.test(before) ? ' ' : ''
  return { text: before + glue + offer.insert + text.slice(place), at: from + glue.length + offer.insert.length }
}

/** Where in a text a place of a line is, the line counted from 1. */
export function placeOf(text: string, line: number, at: number): number {
  const before = text.split('\n').slice(0, line - 1)
  return before.reduce((sum, l) => sum + l.length + 1, 0) + at
}

/** A text with its lines numbered, for paper. */
export const numbered = (text: string): string =>
  text
    .split('\n')
    .map((l, i) => `${i + 1}`.padStart(3) + '  ' + l)
    .join('\n')
