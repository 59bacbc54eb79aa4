import type { Schemas } from '../shared/api/http'

/** Secrets that nobody has typed yet. */
export const noSecrets = (): Schemas['TypedSecrets'] => ({ account: '', secret: '', secretAgain: '', passphrase: '', passphraseAgain: '' })

/** How a line of the sheet stands, by its shape and in words. */
export const sheetStates: Record<Schemas['SheetState'], { shape: string; words: string; tone?: string }> = {
  done: { shape: '✓', words: 'it is so already', tone: 'moss' },
  ready: { shape: '●', words: 'decided; happens when it is set going', tone: 'moss' },
  look: { shape: '▲', words: 'decided; look at it', tone: 'amber' },
  needs: { shape: '○', words: 'something has to be said first', tone: 'amber' },
  blocked: { shape: '✕', words: 'cannot be so', tone: 'crimson' },
}

/** A speed of a connection, in words. */
export const speed = (kilobits: number) => (kilobits >= 1000 ? `${+(kilobits / 1000).toPrecision(3)} Mbit/s` : `${+kilobits.toPrecision(3)} kbit/s`)

/** How far a clock is off, in words. */
export const offWords = (ms: number) => (Math.abs(ms) < 100 ? 'right' : `${(Math.abs(ms) / 1000).toFixed(1)} s ${ms < 0 ? 'behind' : 'ahead'}`)
