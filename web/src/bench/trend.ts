import { useQuery } from '@tanstack/react-query'
import { api, need, type Live } from '../api/client'
import { trailOf, type Point } from '../api/live'

const POINTS = 300

/** The course of the last ``span`` seconds: of the run while one is recorded, else of what was heard here. */
export function useTrend(slug: string, live: Live | null, span: number): Point[] {
  const run = live?.recording ?? null
  const recorded = useQuery({
    queryKey: ['trend', slug, run, span],
    enabled: run != null,
    refetchInterval: 2000,
    queryFn: async () => {
      const end = live?.run_time_s ?? 0
      const params = { path: { slug, number: run! }, query: { from: end - span, points: POINTS } }
      const found = await need(api.GET('/api/v1/rigs/{slug}/runs/{number}/window', { params }))
      return found.time_s.map((t, i): Point => [t, found.reading_high[i] ?? null, found.setpoint[i] ?? null])
    },
    placeholderData: (before) => before,
  })
  return run != null && recorded.data ? recorded.data : trailOf(slug, span)
}

/** Stretches of points that follow each other, as the corners of a line; a hole in between is a hole in the line. */
export function stretches(points: Point[], of: 1 | 2): [number, number][][] {
  const found: [number, number][][] = []
  let open: [number, number][] | null = null
  for (const p of points) {
    const value = p[of]
    if (value == null) open = null
    else if (open) open.push([p[0], value])
    else found.push((open = [[p[0], value]]))
  }
  return found
}
