import createClient, { type Middleware } from 'openapi-fetch'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type Figure = Schemas['Figure']
export type Finding = Schemas['Finding']
export type Rig = Schemas['RigView']
export type Live = Schemas['Live']
export type Quantity = Schemas['Quantity']

export interface Problem {
  field: string
  reason: string
  accepted: string
}

/** What the server refused, or that it could not be reached; every screen shows it the same way. */
export class Refusal extends Error {
  constructor(
    message: string,
    readonly problems: Problem[],
    readonly status: number,
  ) {
    super(message)
  }
}

export function cookie(name: string): string {
  return (
    document.cookie
      .split('; ')
      .find((c) => c.startsWith(`${name}=`))
      ?.slice(name.length + 1) ?? ''
  )
}

/** What is said of a write to hardware that was not answered in time: never that nothing happened. */
const TOO_LATE = 'No answer in time. What reached the controller is not known: look at its display, and at the main switch if it heats.'

const withToken: Middleware = {
  onRequest({ request }) {
    if (request.method !== 'GET') request.headers.set('X-CSRFToken', cookie('csrftoken'))
    return request
  },
  onError({ error }) {
    const late = error instanceof DOMException && error.name === 'TimeoutError'
    return new Refusal(late ? TOO_LATE : 'Rellux does not answer. Is it still running?', [], 0)
  },
}

export const api = createClient<paths>({ baseUrl: '' })
api.use(withToken)

/** The data of an answer, or the refusal thrown. */
export async function need<T>(answer: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  const { data, error, response } = await answer
  if (response.ok) return data as T
  throw refusal(error, response.status)
}

function refusal(error: unknown, status: number): Refusal {
  const body = (error ?? {}) as { message?: string; problems?: Problem[] }
  return new Refusal(body.message ?? `Rellux answered ${status}.`, body.problems ?? [], status)
}

/** Upload a file with progress; resolves to the parsed answer. */
export function upload<T>(path: string, file: File, onProgress: (share: number) => void, signal: AbortSignal): Promise<T> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest()
    request.open('POST', path)
    request.setRequestHeader('X-CSRFToken', cookie('csrftoken'))
    request.responseType = 'json'
    request.upload.onprogress = (event) => onProgress(event.lengthComputable ? event.loaded / event.total : 0)
    request.onload = () => (request.status < 300 ? resolve(request.response as T) : reject(refusal(request.response, request.status)))
    request.onerror = () => reject(new Refusal('The upload broke off.', [], 0))
    signal.addEventListener('abort', () => request.abort())
    const form = new FormData()
    form.append('file', file)
    request.send(form)
  })
}
