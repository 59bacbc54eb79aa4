const plain = (text: string) => text.toLowerCase().replace(/[\s›·,;_/()-]+/g, ' ')

/**
 * The items whose text has all the typed words, in any order. A number belongs to the word before it: “floor 4” is not
 * “floor 0, bay 4”, nor “floor 40” while there is a floor 4. Where nothing is so exact, words and numbers may stand anywhere.
 */
export function matching<T>(items: readonly T[], text: (item: T) => string, words: string): T[] {
  const typed = plain(words).trim().split(' ').filter(Boolean)
  if (!typed.length) return [...items]
  const units: string[] = []
  for (const word of typed) {
    if (/^\d+$/.test(word) && units.length) units[units.length - 1] += ` ${word}`
    else units.push(word)
  }
  const has = (within: string, unit: string, ends: boolean) => {
    for (let at = within.indexOf(unit); at >= 0; at = within.indexOf(unit, at + 1)) {
      if (!ends || !/\d/.test(within[at + unit.length] ?? '')) return true
    }
    return false
  }
  const texts = items.map((item) => plain(text(item)))
  const numbered = (unit: string) => /\d$/.test(unit) && unit.includes(' ')
  // A number is whole; or the last one is still being typed; or nothing is so exact.
  for (const last of [true, false]) {
    const found = items.filter((_, i) => units.every((u, k) => has(texts[i]!, u, numbered(u) && (last || k < units.length - 1))))
    if (found.length) return found
  }
  return items.filter((_, i) => typed.every((w) => texts[i]!.includes(w)))
}
