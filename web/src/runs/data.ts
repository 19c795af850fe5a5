import { useQuery } from '@tanstack/react-query'
import { api, need } from '../api/client'

export const useRuns = (slug: string, everyMs?: number) =>
  useQuery({
    queryKey: ['of', slug, 'runs'],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/runs', { params: { path: { slug } } })),
    ...(everyMs && { refetchInterval: everyMs }),
  })

export const useWindow = (slug: string, run: number | undefined, recording: boolean, from?: number, to?: number) =>
  useQuery({
    queryKey: ['window', slug, run, recording, from, to], // once it has ended the whole of it is fetched anew
    queryFn: () =>
      need(
        api.GET('/api/v1/rigs/{slug}/runs/{number}/window', { params: { path: { slug, number: run! }, query: { from, to, points: 900 } } }),
      ),
    enabled: run !== undefined,
    ...(recording && { refetchInterval: 1000 }),
    placeholderData: (before) => (before?.run === run ? before : undefined),
  })

export const useMetrics = (slug: string, run: number | undefined, recording: boolean, from?: number, to?: number) =>
  useQuery({
    queryKey: ['metrics', slug, run, recording, from, to],
    queryFn: () =>
      need(api.GET('/api/v1/rigs/{slug}/runs/{number}/metrics', { params: { path: { slug, number: run! }, query: { from, to } } })),
    enabled: run !== undefined,
    ...(recording && { refetchInterval: 5000 }),
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
