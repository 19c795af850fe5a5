import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'

export type List = Schemas['WiringView']

/** Steps back and forth, and everything else that replaces the whole list. */
export function useSteps(rig: Rig) {
  const params = { path: { slug: rig.slug } }
  const undo = useChange(rig.slug, () => need(api.POST('/api/v1/rigs/{slug}/wiring/undo', { params, body: { revision: rig.revision } })))
  const redo = useChange(rig.slug, () => need(api.POST('/api/v1/rigs/{slug}/wiring/redo', { params, body: { revision: rig.revision } })))
  const layOut = useChange(rig.slug, (circuit: string) =>
    need(api.POST('/api/v1/rigs/{slug}/wiring', { params, body: { revision: rig.revision, circuit } })),
  )
  const bring = useChange(rig.slug, (text: string) =>
    need(api.POST('/api/v1/rigs/{slug}/wiring/import', { params, body: { revision: rig.revision, text } })),
  )
  return { undo, redo, layOut, bring }
}

/** What is done to single wires and parts. */
export function useEdits(rig: Rig) {
  const params = { path: { slug: rig.slug } }
  const tick = useChange(rig.slug, ({ number, built }: { number: number; built: boolean }) =>
    need(
      api.PUT('/api/v1/rigs/{slug}/wiring/built/{number}', {
        params: { path: { slug: rig.slug, number } },
        body: { revision: rig.revision, built },
      }),
    ),
  )
  const addPart = useChange(rig.slug, (part: { kind: string; name: string }) =>
    need(api.POST('/api/v1/rigs/{slug}/wiring/parts', { params, body: { revision: rig.revision, ...part } })),
  )
  const removePart = useChange(rig.slug, (name: string) =>
    need(
      api.DELETE('/api/v1/rigs/{slug}/wiring/parts/{name}', {
        params: { path: { slug: rig.slug, name }, query: { revision: rig.revision } },
      }),
    ),
  )
  const rate = useChange(rig.slug, ({ name, ratings }: { name: string; ratings: Record<string, unknown> }) =>
    need(
      api.PUT('/api/v1/rigs/{slug}/wiring/parts/{name}/ratings', {
        params: { path: { slug: rig.slug, name } },
        body: { revision: rig.revision, ratings },
      }),
    ),
  )
  return { tick, addPart, removePart, rate }
}
