import type { Schemas } from '../api/client'
import { usePreferences } from '../shell/preferences'
import { STATION_NAME, type Station } from '../shell/stations'
import { useWords } from '../units/fields'
import { said } from '../units/message'

type Trial = Schemas['PurposeTrialView']

/** Whether somebody should look before it is saved. */
export const hangs = (trial: Trial) => trial.parts.length + trial.new.length + trial.gone.length > 0

/** What comes of another purpose, station by station, before it is saved. */
export function Consequences({ trial }: { trial: Trial }) {
  const { unit } = usePreferences()
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
        {trial.new.map((h) => (
          <li key={h.station + h.finding.rule + h.finding.subjects.join()}>
            <span className={`badge ${h.finding.severity}`}>{h.finding.severity}</span>
            <span>
              <span className="dim">{STATION_NAME[h.station as Station]}</span> <b>{said(h.finding.title, unit)}.</b>{' '}
              {said(h.finding.fix, unit)}
            </span>
          </li>
        ))}
        {trial.settled.map((h) => (
          <li key={h.station + h.finding.rule + h.finding.subjects.join()}>
            <span className="badge fine">settled</span>
            <span>
              <span className="dim">{STATION_NAME[h.station as Station]}</span> {said(h.finding.title, unit)}
            </span>
          </li>
        ))}
      </ul>
    </section>
  )
}
