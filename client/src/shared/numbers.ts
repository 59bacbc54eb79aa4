const counts = new Intl.NumberFormat('en-GB')

/** A count as people read it: 12,450. */
export const count = (n: number | null | undefined) => counts.format(n ?? 0)

/** A word for so many: 1 alarm, 2 alarms. */
export const many = (n: number, what: string) => `${count(n)} ${what}${n === 1 ? '' : 's'}`

/** The parts of a moment in a time zone; that of whoever looks unless another is named. */
const partsOf = (ms: number, timeZone?: string) =>
  Object.fromEntries(
    new Intl.DateTimeFormat('en-GB', {
      timeZone,
      year: 'numeric',
      month: '2-digit',
      day: '2-digit',
      weekday: 'short',
      hour: '2-digit',
      minute: '2-digit',
      second: '2-digit',
      hourCycle: 'h23',
    })
      .formatToParts(ms)
      .map((p) => [p.type, p.value]),
  )

/** A moment of somebody's day as ISO orders it: 2026-03-09 07:20. */
export function when(ms: number | null | undefined, timeZone?: string) {
  if (!ms) return '–'
  const p = partsOf(ms, timeZone)
  return `${p.year}-${p.month}-${p.day} ${p.hour}:${p.minute}`
}

/** A moment of site time in the site's zone: 07:20, or Mon 2026-03-09 07:20. */
export function siteTime(ms: number | null | undefined, timeZone = 'Europe/London', withDate = false, withSeconds = false) {
  if (!ms) return '–'
  const p = partsOf(ms, timeZone)
  const time = `${p.hour}:${p.minute}${withSeconds ? `:${p.second}` : ''}`
  return withDate ? `${p.weekday} ${p.year}-${p.month}-${p.day} ${time}` : time
}
