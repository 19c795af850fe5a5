import { Link, NavLink } from 'react-router'
import type { Rig } from '../api/client'
import { said } from '../units/message'
import { usePreferences } from './preferences'
import { STATION_NAME } from './stations'

const SAYS = { done: 'done', open: 'something is open', untouched: 'not begun' }

/** The job as a cable with a terminal per station: solid = done, ring = open, dashed = not begun. */
export function Spine({ rig }: { rig: Rig }) {
  const { unit } = usePreferences()
  return (
    <nav aria-label="Stations of the job">
      <Link className={`next ${rig.next.severity ?? ''}`} to={`/rigs/${rig.slug}/${rig.next.station}`}>
        <small>
          <span>next</span>
          <span>{STATION_NAME[rig.next.station]}</span>
        </small>
        <span>{said(rig.next.text, unit)}</span>
      </Link>
      <ol className="spine">
        {rig.spine.map((s) => (
          <li key={s.station}>
            <NavLink to={`/rigs/${rig.slug}/${s.station}`} data-progress={s.progress}>
              <i aria-hidden />
              <span>{STATION_NAME[s.station]}</span>
              <span className="visually-hidden">, {SAYS[s.progress]}</span>
              {s.waiting > 0 && (
                <b className={s.worst ?? ''} aria-label={`${s.waiting} findings`}>
                  {s.waiting}
                </b>
              )}
            </NavLink>
          </li>
        ))}
      </ol>
    </nav>
  )
}
