import { useQuery } from '@tanstack/react-query'
import { api, need, type Schemas } from '../api/client'

type Colour = Schemas['ConductorColour']

const UNKNOWN: Colour = { name: 'unknown', code: '?', shown: '#8d9296', stripe: '' }

/** Conductor colours with their letter codes, which make them readable in black and white; `of` for the one of a name. */
export function useConductorColours() {
  const { data } = useQuery({
    queryKey: ['conductor-colours'],
    queryFn: () => need(api.GET('/api/v1/conductor-colours')),
    staleTime: Infinity,
  })
  const all = data ?? []
  return { all, of: (name: string) => all.find((c) => c.name === name) ?? UNKNOWN }
}
