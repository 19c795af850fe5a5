import { QueryClient } from '@tanstack/react-query'
import { Refusal } from './client'

/** How often what could not be reached is tried again, ms. */
const AGAIN_MS = 3000

const unreached = (error: unknown) => error instanceof Refusal && error.status === 0

/**
 * Rellux is on this machine: whether the browser believes itself online says nothing. Nothing waits for a network to come
 * back, and no change is ever sent a second time by itself.
 */
export const newQueries = () =>
  new QueryClient({
    defaultOptions: {
      queries: {
        retry: 1,
        staleTime: 2000,
        networkMode: 'always',
        refetchInterval: (query) => (unreached(query.state.error) ? AGAIN_MS : false),
      },
      mutations: { retry: false, networkMode: 'always' },
    },
  })

/** How long a write to a controller may take before it is given up, ms: longer than the server waits for the recorder. */
export const WRITE_DEADLINE_MS = 12_000

/** Signals the end of a write to hardware. */
export const writeDeadline = () => AbortSignal.timeout(WRITE_DEADLINE_MS)
