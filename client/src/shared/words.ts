const plain = (text: string) => text.toLowerCase().replace(/[\s›·,;_/()-]+/g, ' ')

/**
 * The items whose text has all the typed words, in any order. A number belongs to the word before it: “floor 4” is not
 * “floor 0, bay 4”, nor “floor 40”. Where nothing is so exact, words and numbers may stand anywhere.
 */
export function matching<T>(items: readonly T[], text: (item: T) => string, words: string): T[] {
  const typed = plain(words).trim().split(' ').filter(Boolean)
  if (!typed.length) return [...items]
  const units: string[] = []
  for (const word of typed) {
    if (/^\d+$/.test(word) && units.length) units[units.length - 1] += ` ${word}`
    else units.push(word)
  }
  const has = (within: string, unit: string) => {
    const ends = /\d$/.test(unit) && unit.includes(' ')
    for (let at = within.indexOf(unit); at >= 0; at = within.indexOf(unit, at + 1)) {
      if (!ends || !/\d/.test(within[at + unit.length] ?? '')) return true
    }
    return false
  }
  const texts = items.map((item) => plain(text(item)))
  const exact = items.filter((_, i) => units.every((u) => has(texts[i]!, u)))
  return exact.length ? exact : items.filter((_, i) => typed.every((w) => texts[i]!.includes(w)))
}
