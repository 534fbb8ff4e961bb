import type { Session } from './types'

/** What the server answered where it refused: what is wrong, and what can be done. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly hint?: string,
  ) {
    super(message)
  }

  get text(): string {
    return this.hint ? `${sentence(this.message)} ${sentence(this.hint)}` : sentence(this.message)
  }
}

let token = ''
let onSignedOut: () => void = () => undefined

/** @param next called where the server says that nobody is signed in any more */
export function whenSignedOut(next: () => void): void {
  onSignedOut = next
}

const AGAIN = 700 // ms until a call is made again that got no answer

/** A key for one call; randomUUID is there on secure pages only. */
function ownKey(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(16)), (byte) => byte.toString(16).padStart(2, '0')).join('')
}

/** Keeps the token that every changing request must carry. */
export function keepToken(answer: Session): Session {
  token = answer.token
  return answer
}

export const api = {
  get: <T>(path: string) => request<T>('GET', path),
  post: <T>(path: string, body: object = {}) => request<T>('POST', path, body),
  patch: <T>(path: string, body: object = {}) => request<T>('PATCH', path, body),
  put: <T>(path: string, body: object = {}) => request<T>('PUT', path, body),
  /** A file as it is. */
  upload: <T>(path: string, file: File, method: 'PUT' | 'POST' = 'PUT') => request<T>(method, path, file),
  delete: <T>(path: string, body: object = {}) => request<T>('DELETE', path, body),
}

/** The text for any error that a request may end with. */
export function errorText(error: unknown): string {
  return error instanceof ApiError ? error.text : 'Evrel did not answer. Look whether bin/start still runs.'
}

async function request<T>(method: string, path: string, body?: object | File): Promise<T> {
  const headers: Record<string, string> = { accept: 'application/json' }
  if (body)
    Object.assign(headers, {
      'content-type': body instanceof File ? body.type : 'application/json',
      'x-csrf-token': token,
      'idempotency-key': ownKey(),
    })
  const once = () =>
    fetch(`/api${path}`, { method, headers, body: body && (body instanceof File ? body : JSON.stringify(body)) })
  // Asked once more where the line broke: under the same key, it is carried out once.
  const answer = await once().catch(() => new Promise((resolve) => setTimeout(resolve, AGAIN)).then(once))
  const value = await answer.json().catch(() => ({}))
  if (answer.status === 401 && !path.startsWith('/session')) onSignedOut()
  if (!answer.ok) throw new ApiError(value.message ?? `the server answered ${answer.status}`, answer.status, value.hint)
  return value as T
}

function sentence(text: string): string {
  return `${text.charAt(0).toUpperCase()}${text.slice(1)}${/[.!?]$/.test(text) ? '' : '.'}`
}
