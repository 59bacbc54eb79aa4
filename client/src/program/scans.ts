/** A value over scans as a path in a field of 600 by 40: steps for what is on or off, and a gap where there was no value. */
export function pathOf(values: readonly (number | null)[], binary: boolean): string {
  const all = values.filter((v): v is number => v !== null)
  const [low, high] = binary ? [0, 1] : [Math.min(...all), Math.max(...all)]
  const y = (v: number) => (high === low ? 20 : 37 - ((v - low) / (high - low)) * 34)
  let path = ''
  let before: number | null = null
  values.forEach((v, i) => {
    if (v !== null) {
      const x = values.length > 1 ? (i / (values.length - 1)) * 600 : 0
      if (before === null) path += `M${x.toFixed(1)} ${y(v).toFixed(1)}`
      else if (binary && v !== before) path += `L${x.toFixed(1)} ${y(before).toFixed(1)}V${y(v).toFixed(1)}`
      else path += `L${x.toFixed(1)} ${y(v).toFixed(1)}`
    }
    before = v
  })
  return path
}
