import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { usePreferences } from '../shell/preferences'
import { STATION_NAME, type Station } from '../shell/stations'
import { useWords } from '../units/fields'
import { said } from '../units/message'

type Trial = Schemas['PurposeTrialView']

/** Whether somebody should look before it is saved. */
export const hangs = (trial: Trial) =>
  trial.parts.length + trial.new.length + trial.gone.length + trial.neighbours.flatMap((n) => n.new).length > 0

/** What comes of another purpose, station by station, before it is saved. */
export function Consequences({ trial }: { trial: Trial }) {
  const { label, says } = useWords()
  return (
    <section className="consequences" aria-label="What hangs on it">
      <h2>What hangs on it</h2>
      <ul>
        {trial.gone.length > 0 && (
          <li>
            <span className="badge fault">gone</span>
            <span>
              {trial.gone.map((s) => STATION_NAME[s as Station]).join(' and ')} are not for such a rig: what is there stays unseen.
            </span>
          </li>
        )}
        {trial.parts.map((p) => (
          <li key={p.name}>
            <span className="badge advice">Parts</span>
            <span>
              {label(p.name)}: {says(p.name, p.before)} → <b>{says(p.name, p.after)}</b>
            </span>
          </li>
        ))}
        <Hanging told={trial} />
      </ul>
      {trial.neighbours
        .filter((n) => n.new.length + n.settled.length > 0)
        .map((n) => (
          <section key={n.slug} aria-label={`At ${n.name}`}>
            <h3>
              At <Link to={`/rigs/${n.slug}`}>{n.name}</Link>, a zone of the same chamber
            </h3>
            <ul>
              <Hanging told={n} />
            </ul>
          </section>
        ))}
    </section>
  )
}

/** What comes of it, and what is settled by it. */
function Hanging({ told }: { told: Pick<Trial, 'new' | 'settled'> }) {
  const { unit } = usePreferences()
  return (
    <>
      {told.new.map((h) => (
        <li key={h.station + h.finding.rule + h.finding.subjects.join()}>
          <span className={`badge ${h.finding.severity}`}>{h.finding.severity}</span>
          <span>
            <span className="dim">{STATION_NAME[h.station as Station]}</span> <b>{said(h.finding.title, unit)}.</b>{' '}
            {said(h.finding.fix, unit)}
          </span>
        </li>
      ))}
      {told.settled.map((h) => (
        <li key={h.station + h.finding.rule + h.finding.subjects.join()}>
          <span className="badge fine">settled</span>
          <span>
            <span className="dim">{STATION_NAME[h.station as Station]}</span> {said(h.finding.title, unit)}
          </span>
        </li>
      ))}
    </>
  )
}
