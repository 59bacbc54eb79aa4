import { post, type Schemas } from './http'

export type RecordType = Schemas['ProjectRecord']['type']
/** Whether a record is of a kind. */
export const isOf =
  <K extends RecordType>(kind: K) =>
  (r: Schemas['ProjectRecord']): r is Extract<Schemas['ProjectRecord'], { type?: K }> =>
    r.type === kind
export type Place = Schemas['Place']
export type Equipment = Schemas['Equipment']
export type Point = Schemas['Point']
export type Controller = Schemas['Controller']
export type Fitting = Schemas['Fitting']
export type Sequence = Schemas['Sequence']
export type Block = Schemas['Block']
export type Source = Schemas['Source']
export type Schedule = Schemas['Schedule']
export type TrendLog = Schemas['TrendLog']
export type AlarmRule = Schemas['AlarmRule']

const alphabet = '0123456789abcdefghjkmnpqrstvwxyz'

/** A fresh record id: a readable prefix and 80 random bits. */
export function newId(prefix: string) {
  const random = crypto.getRandomValues(new Uint8Array(16))
  return `${prefix}-${Array.from(random, (b) => alphabet[b & 31]).join('')}`
}

/** A put of a record seen at a revision (0 for a new one). */
export function put(type: RecordType, record: object, from: number): Schemas['Edit'] {
  return { put: { ...record, type } as Schemas['ProjectRecord'], from }
}

/** Sends a change set; the server validates it and answers its label. */
export const change = (edits: Schemas['Edit'][], label?: string) => post('/changes', { body: { edits, label } })
