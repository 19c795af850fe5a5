import { useQuery } from '@tanstack/react-query'
import { api, need, type Rig, type Schemas } from '../../api/client'
import { Fig } from '../../shared/Fig'

/** What every load gets in the state shown; each figure opens its derivation. ``own``: a position put together by hand. */
export function StateLoads({ rig, state, own }: { rig: Rig; state: string; own?: Schemas['SolvedState'] }) {
  const { data } = useQuery({
    queryKey: ['of', rig.slug, 'solved', rig.revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/wiring/solved', { params: { path: { slug: rig.slug } } })),
    placeholderData: (before) => before,
  })
  const solved = own ?? data?.find((s) => s.name === state)
  if (!solved) return null
  return (
    <div className="state-loads">
      {solved.tripped.length > 0 && <span className="badge danger">{solved.tripped.join(', ')} trips</span>}
      {!solved.settled && <span className="badge fault">a relay chatters</span>}
      {solved.parts.map((p) => (
        <span key={p.name}>
          <b>{p.name}</b> {p.turned && 'cools '}
          {p.figures.slice(0, p.heats ? 3 : 1).map((f) => (
            <Fig key={f.name} figure={f} />
          ))}
        </span>
      ))}
    </div>
  )
}
