import createClient from 'openapi-fetch'
import type { components, paths } from './schema'

export type Schemas = components['schemas']

/** Why a request was not done: the sentence to show, each refusal, and both versions of a conflict. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly refusals: Schemas['Refusal'][] = [],
    readonly conflicts: Schemas['Conflict'][] = [],
  ) {
    super(message)
  }
}

/** Below which address this project answers: nothing for the first, /p/ID for the others. */
export const base = /^\/p\/[a-z0-9-]+/.exec(location.pathname)?.[0] ?? ''
/** The address of something to be downloaded. */
export const api = (path: string) => `${base}/api${path}`

/** Told when a session has ended, so that the sign-in page can come up. */
export const session = { ended: () => {} }

type Method = 'get' | 'post'
/** The paths that answer a method, without the /api that all of them begin with. */
export type Path<M extends Method> = keyof { [P in keyof paths as paths[P] extends Record<M, unknown> ? (P extends `/api${infer R}` ? R : never) : never]: 1 }
type Operation<P extends string, M extends Method> = `/api${P}` extends keyof paths ? paths[`/api${P}`][M] : never
type Part<O, K extends string> = O extends { parameters: { [k in K]: infer V } }
  ? { [k in K]: V }
  : O extends { parameters: { [k in K]?: infer V } }
    ? { [k in K]?: V }
    : unknown
type Body<O> = O extends { requestBody: { content: { 'application/json': infer B } } }
  ? { body: B }
  : O extends { requestBody: { content: Record<string, unknown> } }
    ? { body: Blob }
    : { body?: Blob }
type Clean<T> = { [k in keyof T as T[k] extends undefined ? never : k]: T[k] }
/** What a request takes: parts of its path, its question, its body. */
export type Asked<P extends string, M extends Method> = Clean<Part<Operation<P, M>, 'path'> & Part<Operation<P, M>, 'query'>> &
  (M extends 'post' ? Body<Operation<P, M>> : unknown)
/** What it answers. */
export type Answer<P extends string, M extends Method> = Operation<P, M> extends { responses: { 200: { content: { 'application/json': infer R } } } } ? R : void
type Rest<A> = Record<never, never> extends A ? [asked?: A] : [asked: A]

const client = createClient<paths>({ baseUrl: base, headers: { 'X-Lofty-Wren': '1' }, fetch: (request) => fetch(request) })

async function ask(method: 'GET' | 'POST', path: string, asked: { path?: object; query?: object; body?: unknown } = {}) {
  const isFile = asked.body instanceof Blob
  const request = {
    params: { path: asked.path, query: asked.query },
    body: method === 'POST' ? (asked.body ?? {}) : undefined,
    ...(isFile ? { bodySerializer: (b: Blob) => b, headers: { 'content-type': 'application/octet-stream' } } : {}),
  }
  const call = client[method] as (
    path: string,
    request: object,
  ) => Promise<{
    data?: unknown
    error?: { detail?: string; title?: string; refusals?: Schemas['Refusal'][]; conflicts?: Schemas['Conflict'][] }
    response: Response
  }>
  const { data, error, response } = await call(`/api${path}`, request).catch(() => {
    throw new ApiError('The server does not answer. What you typed is still here; try again when it is back.', 0)
  })
  if (response.ok) return data
  if (response.status === 401) session.ended()
  throw new ApiError(error?.detail ?? error?.title ?? `The server answered ${response.status}.`, response.status, error?.refusals, error?.conflicts)
}

/** Asks for something; path, parameters and answer are those of the API's description. */
export const get = <P extends Path<'get'>>(path: P, ...[asked]: Rest<Asked<P, 'get'>>) => ask('GET', path, asked) as Promise<Answer<P, 'get'>>
/** Has something done; a file goes as it is. */
export const post = <P extends Path<'post'>>(path: P, ...[asked]: Rest<Asked<P, 'post'>>) => ask('POST', path, asked) as Promise<Answer<P, 'post'>>
