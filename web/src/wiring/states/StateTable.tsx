import { useQuery } from '@tanstack/react-query'
import { api, need, type Rig } from '../../api/client'
import { Fig } from '../../shared/Fig'
import { Failure, Loading } from '../../shared/states'
import type { List } from '../edits'

/** More lamps than this are named in one column. */
const MOST_COLUMNS = 4

/** Every position: what each heater gets, what every lamp shows, what has opened. */
export function StateTable({ rig, wiring, onState }: { rig: Rig; wiring: List; onState: (name: string) => void }) {
  const { data, error } = useQuery({
    queryKey: ['of', rig.slug, 'solved', rig.revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/wiring/solved', { params: { path: { slug: rig.slug } } })),
  })
  const memory = useQuery({
    queryKey: ['of', rig.slug, 'memory', rig.revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/wiring/memory', { params: { path: { slug: rig.slug } } })),
  })
  if (error && !data) return <Failure error={error} />
  if (!data) return <Loading />
  const heaters = wiring.parts.filter((p) => p.heats)
  const signals = wiring.parts.filter((p) => p.signals)
  const lamps = signals.length > MOST_COLUMNS ? [] : signals
  return (
    <div className="state-table" tabIndex={0} role="region" aria-label="Every position">
      <table className="plain">
        <thead>
          <tr>
            <th>With</th>
            {heaters.map((h) => (
              <th key={h.name} className="right">
                {h.name} gets
              </th>
            ))}
            {lamps.map((l) => (
              <th key={l.name}>
                {l.name} <span className="dim">{l.own || l.title.toLowerCase()}</span>
              </th>
            ))}
            {lamps.length < signals.length && <th>Lit</th>}
            <th>Opened</th>
          </tr>
        </thead>
        <tbody>
          {data.map((s) => {
            const on = wiring.states.find((w) => w.name === s.name)?.energised ?? []
            return (
              <tr key={s.name}>
                <td>
                  <button className="title" onClick={() => onState(s.name)}>
                    {s.name}
                  </button>
                </td>
                {heaters.map((h) => {
                  const part = s.parts.find((p) => p.name === h.name)
                  const watts = part?.figures[2]
                  const on = watts && watts.value > 1
                  return (
                    <td key={h.name} className={`right ${on && !part.turned ? 'hot' : ''}`}>
                      {on && part.turned && 'cools '}
                      {on ? <Fig figure={watts} /> : 'off'}
                    </td>
                  )
                })}
                {lamps.map((l) => (
                  <td key={l.name}>{on.includes(l.name) ? <b>on</b> : 'off'}</td>
                ))}
                {lamps.length < signals.length && (
                  <td className="num">{on.filter((name) => signals.some((l) => l.name === name)).join(' ') || 'none'}</td>
                )}
                <td>
                  {s.tripped.join(', ')}
                  {!s.settled && <span className="badge fault">chatters</span>}
                </td>
              </tr>
            )
          })}
        </tbody>
      </table>
      {memory.data && (
        <p>
          {memory.data.holds.length
            ? `${memory.data.holds.join(' and ')}: on or off by what was pressed last, not by the position alone.`
            : 'Nothing here remembers: each position is always the same.'}
        </p>
      )}
    </div>
  )
}
