const counts = new Intl.NumberFormat('en-GB')

/** A count as people read it: 12,450. */
export const count = (n: number | string | null | undefined) => counts.format(Number(n ?? 0))
