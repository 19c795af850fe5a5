import { useQuery } from '@tanstack/react-query'
import { api, need, type Schemas } from '../api/client'

export const useRuns = (slug: string, everyMs?: number) =>
  useQuery({
    queryKey: ['of', slug, 'runs'],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/runs', { params: { path: { slug } } })),
    ...(everyMs && { refetchInterval: everyMs }),
  })

type Run = Schemas['RunView']
const growing = (run?: Run) => run?.status === 'recording'

/** What a run holds: it grows while it is recorded, and the recorder writes its last samples a moment after its end. */
const held = (run?: Run) => [run?.id, growing(run) ? 'growing' : run?.samples]

export const useWindow = (slug: string, run: Run | undefined) =>
  useQuery({
    queryKey: ['window', slug, ...held(run)],
    queryFn: () =>
      need(api.GET('/api/v1/rigs/{slug}/runs/{number}/window', { params: { path: { slug, number: run!.id }, query: { points: 900 } } })),
    enabled: run !== undefined,
    ...(growing(run) && { refetchInterval: 1000 }),
    placeholderData: (before) => (before?.run === run?.id ? before : undefined),
  })

export const useMetrics = (slug: string, run: Run, from?: number, to?: number) =>
  useQuery({
    queryKey: ['metrics', slug, ...held(run), from, to],
    queryFn: () =>
      need(api.GET('/api/v1/rigs/{slug}/runs/{number}/metrics', { params: { path: { slug, number: run.id }, query: { from, to } } })),
    ...(growing(run) && { refetchInterval: 5000 }),
    placeholderData: (before) => before,
  })

export const useLink = (slug: string) =>
  useQuery({
    queryKey: ['of', slug, 'link'],
    queryFn: async () => {
      const { data, response } = await api.GET('/api/v1/rigs/{slug}/link', { params: { path: { slug } } })
      if (response.status === 404) return null
      return need(Promise.resolve({ data, response }))
    },
    refetchInterval: 2000,
  })

export type Device = Schemas['DeviceView']
export type Channel = Schemas['ChannelView']

/** Every device of a rig with what its channels show, as last heard. */
export const useDevices = (slug: string) =>
  useQuery({
    queryKey: ['of', slug, 'devices'],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/devices', { params: { path: { slug } } })),
    refetchInterval: 1000,
  })

/** What every other device showed during a run. */
export const useTracks = (slug: string, run: Run) =>
  useQuery({
    queryKey: ['tracks', slug, ...held(run)],
    queryFn: () =>
      need(api.GET('/api/v1/rigs/{slug}/runs/{number}/tracks', { params: { path: { slug, number: run.id }, query: { points: 900 } } })),
    enabled: run.tracks.length > 0,
    ...(growing(run) && { refetchInterval: 2000 }),
    placeholderData: (before) => before,
  })
