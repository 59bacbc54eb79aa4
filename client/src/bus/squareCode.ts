import jsQR from 'jsqr'
import qrcode from 'qrcode-generator'

/** The text of a square code somewhere in a picture; null where there is none. */
export const squareCode = (picture: Pick<ImageData, 'data' | 'width' | 'height'>) => jsQR(picture.data, picture.width, picture.height)?.data || null

/** A square code for a text: how many fields it has a side, and the dark ones as one path of an SVG. */
export function squareOf(text: string) {
  const code = qrcode(0, 'M')
  code.addData(text)
  code.make()
  const side = code.getModuleCount()
  let path = ''
  for (let row = 0; row < side; row++) for (let at = 0; at < side; at++) if (code.isDark(row, at)) path += `M${at} ${row}h1v1h-1z`
  return { side, path }
}
