import { api } from './base'
import type { Problem } from './desk'
import { asks } from './run'

/** An error whose message is a sentence for the user. */
export class EbbeError extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly type: string,
    readonly field?: string,
  ) {
    super(message)
  }
}

/** Whether it says nothing about what was asked for: the same is asked again, once the program can be reached or one has signed in. */
export const unanswered = (e: unknown) =>
  e instanceof EbbeError && ['unreachable', 'signed-out', 'token'].includes(e.type)

/** What went wrong, in a sentence for the user. */
export const told = (e: unknown) => (e instanceof EbbeError ? e.message : 'Something went wrong. Nothing was changed.')

let csrf = ''
/** Remembers the token that changing requests carry. */
export function setToken(token: string) {
  csrf = token
}

/** A new name for what happens once; also where a page has no secure context, and so no randomUUID. */
export const newKey = () =>
  Array.from(crypto.getRandomValues(new Uint8Array(16)), (b) => b.toString(16).padStart(2, '0')).join('')

/** The key of what is made: the same for as long as the same is asked for, so that two presses make one. */
export function keyed() {
  let last = ''
  let key = ''
  return (body: unknown) => {
    const said = JSON.stringify(body)
    if (said !== last) key = newKey()
    last = said
    return key
  }
}

let renew = () => Promise.resolve(false)
/** Says how a session is found anew when the program does not know this one any more; it gives whether there is one. */
export function renewWith(f: () => Promise<boolean>) {
  renew = f
}

const own: string[] = []
/** Notes that what the program announces with that key was done here. */
export function mine(key: string) {
  own.push(key)
  if (own.length > 500) own.shift()
  return key
}
export const wasMine = (key: string) => own.includes(key)

// Who one is, and coming in and going, is of no box.
const outside = /^\/(session|setup|sign-in|sign-out|recover|invited|join|demo)\b/

async function request<T>(
  method: string,
  path: string,
  body?: unknown,
  key = newKey(),
  signal?: AbortSignal,
): Promise<T> {
  if (method !== 'GET') asks(path, key)
  try {
    return await once<T>(method, path, body, key, signal)
  } catch (e) {
    if (e instanceof EbbeError && (e.type === 'signed-out' || e.type === 'token') && (await renew()))
      return once<T>(method, path, body, key, signal)
    throw e
  }
}

async function once<T>(method: string, path: string, body: unknown, key: string, signal?: AbortSignal): Promise<T> {
  let response: Response
  try {
    response = await fetch((outside.test(path) ? '/api/v1' : api) + path, {
      method,
      headers:
        method === 'GET'
          ? undefined
          : { 'Content-Type': 'application/json', 'X-Ebbe-Token': csrf, 'Idempotency-Key': key },
      body: method === 'GET' ? undefined : JSON.stringify(body ?? {}),
      signal,
    })
  } catch {
    signal?.throwIfAborted()
    throw unreachable()
  }
  return read<T>(response)
}

/** Sends what is only noted: whatever becomes of it, nobody is told, and it outlives the page. */
export function note(path: string, body: unknown) {
  void fetch(api + path, {
    method: 'POST',
    keepalive: true,
    headers: { 'Content-Type': 'application/json', 'X-Ebbe-Token': csrf },
    body: JSON.stringify(body),
  }).catch(() => {})
}

const unreachable = () =>
  new EbbeError('Ebbe cannot be reached. Nothing was changed; try again when the program runs.', 0, 'unreachable')

async function read<T>(response: Response): Promise<T> {
  if (response.status === 503) throw unreachable() // it is being stopped
  if (response.ok) {
    try {
      return (await response.json()) as T
    } catch {
      throw unreachable() // the line was cut in the middle of the answer
    }
  }
  let problem: Partial<Problem> = {}
  try {
    problem = (await response.json()) as Problem
  } catch {
    if (response.status >= 500) throw unreachable() // what stands between answered in its place
  }
  throw new EbbeError(
    problem.detail ?? 'Ebbe answered with something unexpected. Nothing was changed; try again.',
    response.status,
    (problem.type ?? '').replace(/^urn:ebbe:problem:/, ''),
    problem.field,
  )
}

/** Sends a file as it is. */
export async function sendFile<T>(path: string, file: Blob, key: string, type = 'text/calendar'): Promise<T> {
  let response: Response
  try {
    response = await fetch(api + path, {
      method: 'POST',
      headers: { 'Content-Type': type, 'X-Ebbe-Token': csrf, 'Idempotency-Key': key },
      body: file,
    })
  } catch {
    throw new EbbeError('The file did not reach Ebbe, so nothing was taken in. Try again.', 0, 'unreachable')
  }
  return read<T>(response)
}

/** Asks for something; what is typed on by then breaks it off by its signal, and the program stops looking for it. */
export const get = <T>(path: string, signal?: AbortSignal) => request<T>('GET', path, undefined, undefined, signal)
export const post = <T>(path: string, body?: unknown, key?: string) => request<T>('POST', path, body, key)
export const patch = <T>(path: string, body: unknown, key?: string) => request<T>('PATCH', path, body, key)
export const put = <T>(path: string, body: unknown, key?: string) => request<T>('PUT', path, body, key)
