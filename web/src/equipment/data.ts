import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { api, need, type Schemas } from '../api/client'
import { focusFirstWrong } from '../api/hooks'

export type Row = Schemas['EquipmentRow']
export type Piece = Schemas['EquipmentView']
export type Role = Row['role']
export type Probe = Schemas['Probe']

const KEY = ['equipment']

export const useEquipment = () => useQuery({ queryKey: KEY, queryFn: () => need(api.GET('/api/v1/equipment')) })

export const usePiece = (id: number) =>
  useQuery({
    queryKey: [...KEY, id],
    queryFn: () => need(api.GET('/api/v1/equipment/{key}', { params: { path: { key: id } } })),
    placeholderData: (before) => before,
  })

/** What a probe of each sensor can have. */
export const useProbeKinds = () =>
  useQuery({ queryKey: ['probe kinds'], queryFn: () => need(api.GET('/api/v1/equipment/probes')), staleTime: Infinity })

export const useFitted = (slug: string, revision: number) =>
  useQuery({
    queryKey: ['of', slug, 'fitted', revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/fitted', { params: { path: { slug } } })),
    placeholderData: (before) => before,
  })

/** A change of a piece: what hangs on it, in every rig, is fetched again; refused, so is the piece. */
export function useEquipmentChange<In, Out>(change: (input: In) => Promise<Out>) {
  const queries = useQueryClient()
  const refresh = () => Promise.all([KEY, ['rig'], ['of'], ['workshop']].map((queryKey) => queries.invalidateQueries({ queryKey })))
  return useMutation({ mutationFn: change, onSuccess: refresh, onError: () => (void refresh(), focusFirstWrong()) })
}

/** Where a piece is now; nothing where it lies on the shelf. */
export const here = (row: Row) => row.stays.find((s) => s.until === null)

interface Fitting {
  row: Row
  rig: string
  rigRevision: number
  at?: string
  why?: string
}

export const useFit = () =>
  useEquipmentChange(({ row, rig, rigRevision, at, why }: Fitting) =>
    need(
      api.POST('/api/v1/equipment/{key}/fit', {
        params: { path: { key: row.id } },
        body: { rig, revision: row.revision, rig_revision: rigRevision, at: at ?? null, why: why ?? '' },
      }),
    ),
  )
