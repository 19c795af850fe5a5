import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { api, need, type Rig, type Schemas } from './client'

const workshop = { queryKey: ['workshop'], queryFn: () => need(api.GET('/api/v1/rigs')) }

/** Every rig with its reading, followed while the workshop is looked at. */
export const useWorkshop = () => useQuery({ ...workshop, refetchInterval: 3000 })

/** Which rigs there are and what they are called: asked again only after a change, not while a station is open. */
export const useRigs = () => useQuery({ ...workshop, staleTime: Infinity })

/** What a rig does to its temperature. */
export const useEffectOf = (slug: string) => useRigs().data?.find((r) => r.slug === slug)?.effect

/** Whether a rig only watches. */
export const useWatches = (slug: string) => useEffectOf(slug) === 'watches'

/** The kinds of rig: what is taken of each, and what is dangerous about it. */
export const useKinds = () =>
  useQuery({ queryKey: ['kinds'], queryFn: () => need(api.GET('/api/v1/kinds')), staleTime: Infinity }).data ?? []

export const useRig = (slug: string) =>
  useQuery({
    queryKey: ['rig', slug],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}', { params: { path: { slug } } })),
    refetchInterval: 10000,
  })

/** After a change of a rig: everything computed from it is fetched again, the rig first. What follows a change, a next step for one, is
 *  not offered beside the revision of before: a quick press would be refused as another window's. */
export function useRefresh(slug: string) {
  const queries = useQueryClient()
  return async () => {
    await queries.invalidateQueries({ queryKey: ['rig', slug] })
    await Promise.all([queries.invalidateQueries({ queryKey: ['of', slug] }), queries.invalidateQueries({ queryKey: ['workshop'] })])
  }
}

/** After a refusal: to the first field that is wrong. */
export function focusFirstWrong() {
  requestAnimationFrame(() => document.querySelector<HTMLElement>('main [aria-invalid="true"]')?.focus())
}

/** A write to a rig. Refused because of another window's change: fetch the new state, keep what was typed. */
export function useChange<In, Out>(slug: string, change: (input: In) => Promise<Out>) {
  const refresh = useRefresh(slug)
  return useMutation({ mutationFn: change, onSuccess: refresh, onError: () => (void refresh(), focusFirstWrong()) })
}

export const useAccept = (rig: Rig) =>
  useChange(rig.slug, (proposal: Schemas['Proposal']) =>
    need(
      api.POST('/api/v1/rigs/{slug}/accept', {
        params: { path: { slug: rig.slug } },
        body: { revision: rig.revision, target: proposal.target, value: proposal.value },
      }),
    ),
  )
