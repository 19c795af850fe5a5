import { type ReactNode, useState } from 'react'
import { usePreferences } from '../shell/preferences'
import { said } from '../units/message'
import { day } from '../shared/when'
import { here, type Row } from './data'

const DAY = 86_400_000
const LEAST_DAYS = 30

interface Props {
  rows: Row[]
  pressed: number | null
  onPress: (id: number) => void
  /** What is shown of the pressed one, on its place. */
  children: ReactNode
}

/** Every piece on a line of its own, and on it the rigs it was in: from the first stay until now. */
export function Lanes({ rows, pressed, onPress, children }: Props) {
  const { unit } = usePreferences()
  const [now] = useState(() => Date.now())
  const begun = Math.min(now - LEAST_DAYS * DAY, ...rows.flatMap((r) => r.stays.map((s) => Date.parse(s.since))))
  const at = (iso: string | null) => ((Math.min(iso ? Date.parse(iso) : now, now) - begun) / (now - begun)) * 100
  return (
    <div className="lanes">
      <p className="lanes-scale small dim" aria-hidden>
        <span>{day(new Date(begun).toISOString())}</span>
        <span>{day(new Date((begun + now) / 2).toISOString())}</span>
        <span>now</span>
      </p>
      <ul>
        {rows.map((row) => {
          const worst = row.findings[0]?.severity
          return (
            <li key={row.id} className={pressed === row.id ? 'pressed' : ''}>
              <button className="lane-row" aria-pressed={pressed === row.id} onClick={() => onPress(row.id)}>
                <span className="lane-name">
                  <b>{row.name}</b>
                  {worst && <span className={`badge ${worst}`}>{row.findings.length}</span>}
                  <small>{said(row.says, unit)}</small>
                </span>
                <span className="lane">
                  {row.stays.map((s) => (
                    <span
                      key={s.since}
                      className={s.until ? 'stay' : 'stay open'}
                      style={{ left: `${at(s.since)}%`, width: `max(${at(s.until) - at(s.since)}%, 6px)` }}
                      title={`${s.rig_name}, ${day(s.since)} to ${s.until ? day(s.until) : 'now'}`}
                    >
                      {s.rig_name}
                    </span>
                  ))}
                </span>
                <span className="lane-now small">{row.scrapped ? 'scrapped' : (here(row)?.rig_name ?? shelf(row))}</span>
              </button>
              {pressed === row.id && children}
            </li>
          )
        })}
      </ul>
    </div>
  )
}

const shelf = (row: Row) => (row.role === 'reference' ? 'reference' : 'on the shelf')
