import type { Problem } from './desk'

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

/** What went wrong, in a sentence for the user. */
export const told = (e: unknown) => (e instanceof EbbeError ? e.message : 'Something went wrong. Nothing was changed.')

let csrf = ''
/** Remembers the token that changing requests carry. */
export function setToken(token: string) {
  csrf = token
}

export const newKey = () => crypto.randomUUID()

async function request<T>(method: string, path: string, body?: unknown, key?: string): Promise<T> {
  let response: Response
  try {
    response = await fetch('/api/v1' + path, {
      method,
      headers:
        method === 'GET'
          ? undefined
          : { 'Content-Type': 'application/json', 'X-Ebbe-Token': csrf, 'Idempotency-Key': key ?? newKey() },
      body: method === 'GET' ? undefined : JSON.stringify(body ?? {}),
    })
  } catch {
    throw unreachable()
  }
  return read<T>(response)
}

/** Sends what is only noted: whatever becomes of it, nobody is told, and it outlives the page. */
export function note(path: string, body: unknown) {
  void fetch('/api/v1' + path, {
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
    // the answer was no problem document; the sentence below stands in
  }
  throw new EbbeError(
    problem.detail ?? 'Ebbe answered with something unexpected. Nothing was changed; try again.',
    response.status,
    problem.type ?? '',
    problem.field,
  )
}

/** Sends a file as it is. */
export async function sendFile<T>(path: string, file: Blob, key: string, type = 'text/calendar'): Promise<T> {
  let response: Response
  try {
    response = await fetch('/api/v1' + path, {
      method: 'POST',
      headers: { 'Content-Type': type, 'X-Ebbe-Token': csrf, 'Idempotency-Key': key },
      body: file,
    })
  } catch {
    throw new EbbeError('The file did not reach Ebbe, so nothing was taken in. Try again.', 0, 'unreachable')
  }
  return read<T>(response)
}

export const get = <T>(path: string) => request<T>('GET', path)
export const post = <T>(path: string, body?: unknown, key?: string) => request<T>('POST', path, body, key)
export const put = <T>(path: string, body: unknown) => request<T>('PUT', path, body)
