import type { Figure } from '../api/client'
import { Fig } from '../shared/Fig'
import { usePreferences } from '../shell/preferences'
import { fixed, say } from '../units/quantity'
import { type Candidate, LINES } from './lines'
import type { Line } from './Responses'

const WINDOW: Record<string, string> = { may_leave: 'may leave it', leaves: 'leaves it' }

const [HEATER, DOWN, NEIGHBOUR] = ['heater gets to', 'there, step down', 'off by zones']

interface Props {
  rows: Candidate[]
  lines: Line[]
  chosen: string
  onPick: (key: string) => void
}

/** What each does: on the rig as it was found, and at the most on what it may be. */
export function CandidateTable({ rows, lines, chosen, onPick }: Props) {
  const { theme } = usePreferences()
  const colour = (key: string) => {
    const i = lines.findIndex((l) => l.key === key)
    return i < 0 ? 'transparent' : LINES[i % LINES.length]![theme]
  }
  const heated = rows.some((c) => named(c.outcome, HEATER))
  const cooled = rows.some((c) => c.down.length)
  const beside = rows.some((c) => c.neighbour.length)
  return (
    <table className="plain candidates" style={{ marginTop: 8 }}>
      <thead>
        <tr>
          <th>candidate</th>
          <th className="right">over</th>
          <th className="right">there for good</th>
          <th className="right">off by a door</th>
          {cooled && <th className="right">{DOWN}</th>}
          {beside && <th className="right">{NEIGHBOUR}</th>}
          {heated && <th className="right">{HEATER}</th>}
          <th className="right">switch/h</th>
          <th className="right">Ms</th>
          <th>window</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((c) => (
          <tr key={c.key} className={c.key === chosen ? 'chosen' : ''} onClick={() => onPick(c.key)}>
            <td>
              <label>
                <input type="radio" name="candidate" checked={c.key === chosen} onChange={() => onPick(c.key)} />
                <span className="swatch" style={{ background: colour(c.key) }} aria-hidden />
                {c.name}
              </label>
            </td>
            <UpTo figure={named(c.outcome, 'overshoot')} label="over" />
            <UpTo figure={named(c.outcome, 'there for good')} label="there for good" otherwise="not yet" never="…never" />
            <UpTo figure={named(c.door, 'furthest off')} label="off by a door" />
            {cooled && <UpTo figure={named(c.down, 'there for good')} label={DOWN} otherwise="not yet" never="…never" />}
            {beside && <UpTo figure={named(c.neighbour, 'furthest off')} label={NEIGHBOUR} />}
            {heated && <UpTo figure={named(c.outcome, HEATER)} label={HEATER} />}
            <UpTo figure={named(c.metrics, 'switchings per hour')} label="switch/h" />
            <td className="right num" data-label="Ms">
              {c.ms ? <Fig figure={c.ms} /> : c.swings ? <b style={{ color: 'var(--fault)' }}>swings</b> : '–'}
              {c.ms && <span className="dim most">{c.ms.high == null ? '…swings' : `…${fixed(c.ms.high, 2)}`}</span>}
            </td>
            <td data-label="window">{c.window === 'holds' ? 'holds' : <b style={{ color: 'var(--fault)' }}>{WINDOW[c.window]}</b>}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

const named = (figures: Figure[], name: string) => figures.find((f) => f.name === name)

/** A figure, and the most it may be. */
function UpTo({ figure, label, otherwise = '–', never = '' }: { figure?: Figure; label: string; otherwise?: string; never?: string }) {
  const { unit } = usePreferences()
  return (
    <td className="right num" data-label={label}>
      {figure ? <Fig figure={figure} /> : otherwise}
      {figure && <span className="dim most">{figure.high == null ? never : `…${say(figure.high, figure.kind, unit)}`}</span>}
    </td>
  )
}
