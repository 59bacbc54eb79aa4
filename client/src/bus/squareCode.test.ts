import { expect, test } from 'vitest'
import { squareCode, squareOf } from './squareCode'

/** A square code as a camera would see it: fields of so many pixels, a light border of four fields (ISO/IEC 18004). */
function picture(text: string, pixels: number) {
  const { side, path } = squareOf(text)
  const width = (side + 8) * pixels
  const data = new Uint8ClampedArray(width * width * 4).fill(255)
  for (const [, x, y] of path.matchAll(/M(\d+) (\d+)h/g))
    for (let dy = 0; dy < pixels; dy++)
      for (let dx = 0; dx < pixels; dx++)
        data.fill(
          0,
          (((Number(y) + 4) * pixels + dy) * width + (Number(x) + 4) * pixels + dx) * 4,
          (((Number(y) + 4) * pixels + dy) * width + (Number(x) + 4) * pixels + dx) * 4 + 3,
        )
  return { data, width, height: width }
}

test.each(['BUS1:00FA10000105BD', 'BUS1:00FA10000105BD:AD5BAAABAUAAOBYVDSRS2SWAZWJP44D3QKFDTNA'])('what is printed is read again: %s', (text) => {
  for (const pixels of [3, 5, 8]) expect(squareCode(picture(text, pixels))).toBe(text)
})

test('where there is no code nothing is read', () => {
  const data = new Uint8ClampedArray(200 * 200 * 4).map((_, i) => (i * 7919) % 256)
  expect(squareCode({ data, width: 200, height: 200 })).toBeNull()
})
