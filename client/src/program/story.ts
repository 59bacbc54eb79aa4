import type { Schemas } from '../shared/api/http'

/** A pin of a story as a strip: a path on a field of 160 × 22, and its range in words. */
export type Strip = { pin: string; label: string; isInput: boolean; isBinary: boolean; path: string; range: string }

const WIDTH = 160
const HEIGHT = 22
const PAD = 2
const short = (v: number) => `${Math.abs(v) >= 1000 ? Math.round(v) : +v.toPrecision(3)}`

/** Draws each line as steps; where it says nothing there is a gap. */
export function drawStory(lines: Schemas['StoryLine'][]): Strip[] {
  return lines.map((l) => {
    const said = l.values.filter((v): v is number => v != null)
    const low = l.isBinary ? 0 : Math.min(...said)
    const high = l.isBinary ? 1 : Math.max(...said)
    const y = (v: number) => (high > low ? HEIGHT - PAD - ((v - low) / (high - low)) * (HEIGHT - 2 * PAD) : HEIGHT / 2)
    let path = ''
    let before: number | null = null
    l.values.forEach((v, i) => {
      const x = +((i * WIDTH) / l.values.length).toFixed(1)
      if (v == null) before = null
      else {
        path += before == null ? `M${x} ${y(v).toFixed(1)}` : l.isBinary ? `H${x}V${y(v).toFixed(1)}` : `L${x} ${y(v).toFixed(1)}`
        before = v
      }
    })
    const unit = l.unit ? ` ${l.unit}` : ''
    const range = !said.length ? 'released' : l.isBinary ? 'on / off' : high > low ? `${short(low)} … ${short(high)}${unit}` : `${short(low)}${unit}`
    return { pin: l.pin, label: l.label, isInput: l.isInput, isBinary: l.isBinary, path, range }
  })
}

/** Kinds whose name, family or words hold every word, those whose name begins with the first one first. */
export function findKinds<T extends Pick<Schemas['BlockType'], 'name' | 'words' | 'kind' | 'group'>>(kinds: T[], text: string): T[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean)
  const first = (d: T) => (words.length && d.name.toLowerCase().startsWith(words[0]!) ? 0 : 1)
  return kinds.filter((d) => words.every((w) => `${d.name} ${d.words} ${d.kind} ${d.group}`.toLowerCase().includes(w))).sort((a, b) => first(a) - first(b))
}
