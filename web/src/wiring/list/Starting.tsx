import { useQuery } from '@tanstack/react-query'
import { api, need, type Rig } from '../../api/client'
import { Said } from '../../shared/Said'
import { Refused } from '../../shared/states'
import { useSteps } from '../edits'

/** The usual circuits to start from; what these parts cannot have says why. */
export function Starting({ rig, now }: { rig: Rig; now: string }) {
  const { layOut } = useSteps(rig)
  const { data } = useQuery({
    queryKey: ['of', rig.slug, 'usual', rig.revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/wiring/usual', { params: { path: { slug: rig.slug } } })),
  })
  return (
    <section aria-label="Usual circuits">
      <h2>{now ? 'Start again from a usual circuit' : 'Start from a usual circuit'}</h2>
      <ul className="starting">
        {(data ?? []).map((o) => (
          <li key={o.key} className={o.refused ? 'cannot' : o.key === now ? 'chosen' : ''}>
            <b>
              <Said>{o.title}</Said>
            </b>
            <span>
              <Said>{o.refused || o.says}</Said>
            </span>
            <button
              className="button"
              disabled={!!o.refused || layOut.isPending}
              aria-label={`Lay out: ${o.title}`}
              onClick={() => layOut.mutate(o.key)}
            >
              Lay it out
            </button>
          </li>
        ))}
      </ul>
      {now && <p className="dim small">Your own changes are replaced; one step back brings them again.</p>}
      <Refused error={layOut.error} />
    </section>
  )
}
