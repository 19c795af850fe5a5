import { QueryClientProvider } from '@tanstack/react-query'
import { configure, render, waitFor } from '@testing-library/react'
import { MemoryRouter } from 'react-router'
import { vi } from 'vitest'
import recorded from './answers.json?raw'

configure({ getElementError: (message) => new Error(message ?? 'not found') })

/** What the charts were given to draw. */
const charts = vi.hoisted(() => ({ drawn: [] as unknown[] }))
export const { drawn } = charts
vi.mock('echarts/core', () => ({
  use: () => {},
  init: () => ({ setOption: (option: unknown) => charts.drawn.push(option), resize() {}, dispose() {} }),
}))
vi.mock('elkjs/lib/elk-api', async () => {
  const { default: Bundled } = await import('elkjs/lib/elk.bundled.js')
  return {
    default: function () {
      return new Bundled()
    },
  } // on the main thread: jsdom has no other
})

/** What went out to the server. */
export interface Sent {
  method: string
  path: string
  body: Record<string, unknown>
}

interface Refused {
  field: string
  reason: string
}

const answers = JSON.parse(recorded) as { request: string; answer: unknown }[]
const known = new Map<string, unknown>(answers.map(({ request, answer }) => [request, answer]))
const withoutQuery = new Map<string, unknown>(answers.map(({ request, answer }) => [request.split('?')[0]!, answer]))

/** The API's client keeps the fetch it was loaded with: all of them in a file share one. */
let answering: typeof fetch

/** Looks in a row at which nothing is on its way any more: what is loaded may ask for more. */
const QUIET = 4

/** Pages of the demo in the whole interface, before a server that answers as it did when it was recorded; see tools/answers.py. */
export class Demo {
  sent: Sent[] = []
  unknown: string[] = []
  /** What the server refuses of the next change. */
  refuses: Refused | null = null

  constructor() {
    vi.stubGlobal('fetch', (input: Request | string, init?: RequestInit) => answering(input, init))
    answering = this.fetch
    vi.stubGlobal('Request', AtDemo)
    vi.stubGlobal('EventSource', Told)
    vi.stubGlobal(
      'ResizeObserver',
      class {
        observe() {}
        unobserve() {}
        disconnect() {}
      },
    )
    window.matchMedia ??= () => ({ matches: false, addEventListener() {}, removeEventListener() {} }) as unknown as MediaQueryList
    Element.prototype.scrollIntoView ??= () => {}
    sessionStorage.clear()
    localStorage.clear()
  }

  private fetch: typeof fetch = async (input, init) => {
    const request = new AtDemo(input, init)
    const { pathname, search } = new URL(request.url)
    const asked = `${request.method} ${pathname}`
    const answer = known.get(asked + search) ?? withoutQuery.get(asked)
    if (request.method !== 'GET') {
      const text = await request.text()
      this.sent.push({ method: request.method, path: pathname, body: text ? (JSON.parse(text) as Sent['body']) : {} })
      if (answer === undefined) return this.changed()
    }
    if (answer === undefined) this.unknown.push(asked + search)
    return answer === undefined ? json({ message: 'not recorded', problems: [] }, 404) : json(answer, 200)
  }

  private changed() {
    if (!this.refuses) return new Promise<Response>(() => {}) // what was sent is all that is looked at
    return json({ message: 'refused', problems: [{ ...this.refuses, accepted: '1 to 2' }] }, 422)
  }

  /** The page once everything on it has come. */
  async open(path: string) {
    const [{ App }, { newQueries }, { Preferences }] = await Promise.all([
      import('../app'),
      import('../api/queries'),
      import('../shell/preferences'),
    ])
    const queries = newQueries()
    const page = render(
      <QueryClientProvider client={queries}>
        <Preferences>
          <MemoryRouter initialEntries={[path]}>
            <App />
          </MemoryRouter>
        </Preferences>
      </QueryClientProvider>,
    )
    let quiet = 0
    await waitFor(
      () => {
        const loading = queries.isFetching() || queries.isMutating() || page.container.textContent.includes('Fetching…')
        quiet = loading || !page.container.querySelector('main') ? 0 : quiet + 1
        if (quiet < QUIET) throw new Error(`${path} is still loading`)
      },
      { timeout: 20_000, interval: 50 },
    )
    return page
  }
}

/** The stream that says once what every rig was at. */
class Told {
  static readonly CLOSED = 2
  readonly readyState = 1
  onmessage: ((event: { data: string }) => void) | null = null

  constructor(url: string) {
    const rigs = new URL(url, 'http://demo').searchParams.get('rigs')!.split(',')
    setTimeout(() => {
      for (const rig of rigs) {
        const seen = known.get(`GET /api/v1/rigs/${rig}`) as { live: unknown } | undefined
        if (seen) this.onmessage?.({ data: JSON.stringify({ rig, live: seen.live }) })
      }
    })
  }

  close() {
    this.onmessage = null
  }
}

const Plain = globalThis.Request

/** As in a browser, which knows where it is. */
class AtDemo extends Plain {
  constructor(input: Request | URL | string, init?: RequestInit) {
    super(typeof input === 'string' ? new URL(input, 'http://demo') : input, init)
  }
}

const json = (body: unknown, status: number) =>
  new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } })
