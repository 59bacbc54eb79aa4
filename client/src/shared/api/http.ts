import type { components } from './schema'

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
/** The address of something to be fetched or downloaded. */
export const api = (path: string) => `${base}/api${path}`

/** Told when a session has ended, so that the sign-in page can come up. */
export const session = { ended: () => {} }

async function ask<T>(method: string, path: string, body?: unknown): Promise<T> {
  let response: Response
  try {
    response = await fetch(api(path), {
      method,
      headers: {
        'X-Lofty-Wren': '1',
        ...(body === undefined ? {} : { 'content-type': body instanceof Blob ? 'application/octet-stream' : 'application/json' }),
      },
      body: body === undefined ? undefined : body instanceof Blob ? body : JSON.stringify(body),
    })
  } catch {
    throw new ApiError('The server does not answer. What you typed is still here; try again when it is back.', 0)
  }
  if (response.status === 204) return undefined as T
  const text = await response.text()
  const json = text ? JSON.parse(text) : {}
  if (response.ok) return json as T
  if (response.status === 401) session.ended()
  throw new ApiError(json.detail ?? json.title ?? `The server answered ${response.status}.`, response.status, json.refusals, json.conflicts)
}

/** Sends a file as it is. */
export const send = <T = void>(path: string, file: Blob) => ask<T>('POST', path, file)
export const get = <T>(path: string) => ask<T>('GET', path)
export const post = <T = void>(path: string, body?: unknown) => ask<T>('POST', path, body ?? {})
