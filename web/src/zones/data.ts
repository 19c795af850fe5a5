import { useQuery } from '@tanstack/react-query'
import { api, need, type Schemas } from '../api/client'

export type ChamberView = Schemas['ChamberView']
export const ZONES = ['chambers']

export const useChambers = () => useQuery({ queryKey: ZONES, queryFn: () => need(api.GET('/api/v1/chambers')) })

export const useChamber = (id: number) =>
  useQuery({
    queryKey: [...ZONES, id],
    queryFn: () => need(api.GET('/api/v1/chambers/{id}', { params: { path: { id } } })),
  })

export const useHeatUp = (chamber: ChamberView, turns: boolean) =>
  useQuery({
    queryKey: [...ZONES, chamber.id, 'heat-up', turns, chamber.revision, chamber.zones.map((z) => z.working_c).join()],
    queryFn: () => need(api.GET('/api/v1/chambers/{id}/heat-up', { params: { path: { id: chamber.id }, query: { turns } } })),
  })
