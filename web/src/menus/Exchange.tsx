import { Link } from 'react-router'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { Refused } from '../shared/states'
import type { RigController } from './data'

type Move = Schemas['WireMove']

/** From the old controller to the new one, one wire at a time: which is next is told large, the rest below it. */
export function Exchange({ rig, data }: { rig: Rig; data: RigController }) {
  const tick = useChange(rig.slug, ({ wire, built }: { wire: number; built: boolean }) =>
    need(
      api.PUT('/api/v1/rigs/{slug}/wiring/built/{number}', {
        params: { path: { slug: rig.slug, number: wire } },
        body: { revision: data.revision, built },
      }),
    ),
  )
  const next = data.exchange.find((m) => !m.done)
  const left = data.exchange.filter((m) => !m.done).length
  return (
    <section className="exchange" aria-label="Exchange, wire by wire">
      <h2>Wire by wire to the new one</h2>
      <p className="small">
        Supply off, locked, and nothing live at the terminals: measure it. Take a <Link to={`/rigs/${rig.slug}/wiring`}>photograph</Link>{' '}
        first, then move one wire at a time.
      </p>
      {next && (
        <p className="answer">
          Wire {next.wire}, {next.colour}: <Place of={next} /> <span className="dim">({left} left)</span>
        </p>
      )}
      <ol className="steps" aria-label="Wires to move">
        {data.exchange.map((m) => (
          <li key={`${m.wire} ${m.terminal}`} className={m.done ? 'done' : m === next ? 'upnext' : ''}>
            <label>
              <input
                type="checkbox"
                checked={m.done}
                disabled={tick.isPending || data.revision !== rig.revision}
                onChange={(e) => tick.mutate({ wire: m.wire, built: e.target.checked })}
              />
              <span>
                Wire {m.wire}, {m.colour}, {m.area_mm2} mm², from {m.other}: <Place of={m} />
              </span>
            </label>
          </li>
        ))}
      </ol>
      <Refused error={tick.error} />
      <p className="small dim">Its settings are walked below; what guards by it counts as unproved until it was made to act again.</p>
    </section>
  )
}

function Place({ of }: { of: Move }) {
  return (
    <>
      <span className="shows">{of.before}</span> →{' '}
      {of.after ? (
        <span className="shows">{of.after}</span>
      ) : (
        <strong>no {of.terminal} on the new one: leave it insulated, and look at the circuit again</strong>
      )}{' '}
      {of.terminal !== of.before && of.terminal !== of.after && <span className="dim">({of.terminal})</span>}
    </>
  )
}
