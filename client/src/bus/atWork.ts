import type { Schemas } from '../shared/api/http'

/** How a device stands in words and with a mark of its own, never by colour alone. */
export const states: Record<Schemas['BusState'], { mark: string; words: string; tone?: 'moss' | 'amber' | 'crimson' }> = {
  unknown: { mark: '○', words: 'not looked at' },
  silent: { mark: '✕', words: 'silent', tone: 'crimson' },
  interrupted: { mark: '▲', words: 'write interrupted', tone: 'amber' },
  notConfigured: { mark: '▲', words: 'not configured', tone: 'amber' },
  differs: { mark: '≠', words: 'differs', tone: 'amber' },
  same: { mark: '✓', words: 'as designed', tone: 'moss' },
}

/** What somebody sees who stands before it. */
export function seen(on: Schemas['SeenBusDevice'] | null | undefined): string {
  if (!on) return '○ not there'
  if (!on.hasBus) return '✕ no bus'
  if (on.isWaiting) return '◉ waits for an address'
  return on.hasMains ? '● hangs' : '▲ no mains'
}

/** Seconds as people say them: 0.8 s, 27 s, 2 min. */
export const lasts = (seconds: number) =>
  seconds < 10 ? `${seconds.toFixed(1)} s` : seconds < 90 ? `${Math.round(seconds)} s` : `${Math.round(seconds / 60)} min`
