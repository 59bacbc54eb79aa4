/** Reads what somebody typed as a number: 21.5, 21,5, -3, 1e3; nothing is null. What is none is said in words. */
export function readNumber(text: string): { value: number | null; wrong: string } {
  const plain = text.trim().replace(/[\u2212\u2013]/, '-')
  if (!plain) return { value: null, wrong: '' }
  const pointed = /^[^.]*,[^.,]*$/.test(plain) ? plain.replace(',', '.') : plain
  const value = /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(pointed) ? Number(pointed) : NaN
  return Number.isFinite(value) ? { value, wrong: '' } : { value: null, wrong: `‘${text.trim()}’ is not a number. Write it like 21.5.` }
}
