import { useRef, useState } from 'react'
import type { Schemas } from '../api/client'
import { heat } from '../look/heat'
import { spoken, timeTicks } from '../profiles/scale'
import { Said } from '../shared/Said'
import { spread, ticks } from '../shared/placing'
import { Failure, Loading } from '../shared/states'
import { useWidth } from '../shared/useWidth'
import { usePreferences } from '../shell/preferences'
import { absolute, fixed, say, toCelsius } from '../units/quantity'
import { useHeatUp, type ChamberView } from './data'

const LEFT = 60
const RIGHT = 118
const HEIGHT = 260
const FOOT = 26
const TOP = 16

/** All zones from cold, as simulated: at once, or one after the other. */
export function HeatUp({ chamber }: { chamber: ChamberView }) {
  const [turns, setTurns] = useState(chamber.findings.some((f) => f.rule === 'zones.supply'))
  const { data, error } = useHeatUp(chamber, turns)
  return (
    <section aria-label="Heat-up">
      <h2>How do they come up from cold?</h2>
      <div className="row" role="group" aria-label="Start">
        {[false, true].map((t) => (
          <button key={String(t)} className="button" aria-pressed={turns === t} onClick={() => setTurns(t)}>
            {t ? 'One after the other' : 'All at once'}
          </button>
        ))}
      </div>
      {error && !data ? <Failure error={error} /> : data ? <Course found={data} /> : <Loading />}
    </section>
  )
}

function Course({ found }: { found: Schemas['HeatUpView'] }) {
  const box = useRef<HTMLDivElement>(null)
  const width = useWidth(box)
  const { unit, theme } = usePreferences()
  const right = width < 500 ? 14 : RIGHT
  const end = found.time_s.at(-1) ?? 1
  const top = Math.max(...found.zones.flatMap((z) => [z.setpoint_c, ...z.reading_c])) * 1.04
  const low = Math.min(...found.zones.map((z) => z.reading_c[0] ?? 0))
  const x = (t: number) => LEFT + (t / end) * (width - LEFT - right)
  const y = (c: number) => TOP + (1 - (c - low) / (top - low)) * (HEIGHT - FOOT - TOP)
  const names = spread(
    found.zones.map((z, i) => ({ i, name: z.name, y: y(z.reading_c.at(-1) ?? low) })),
    18,
    HEIGHT - FOOT,
  )
  return (
    <>
      <div ref={box} className="heat-up">
        <svg width={width} height={HEIGHT} role="img" aria-label="Readings of all zones over time">
          {ticks(absolute(low, unit), absolute(top, unit), 5).map((t) => (
            <g key={t} className="scale">
              <line x1={LEFT} x2={width - right} y1={y(toCelsius(t, unit))} y2={y(toCelsius(t, unit))} />
              <text x={LEFT - 8} y={y(toCelsius(t, unit)) + 5} textAnchor="end">
                {fixed(t, 0)}°
              </text>
            </g>
          ))}
          {timeTicks(end, width).map((t) => (
            <text key={t} className="foot" x={x(t)} y={HEIGHT - 6} textAnchor={t ? 'middle' : 'start'}>
              {t ? spoken(t) : 'start'}
            </text>
          ))}
          {found.zones.map((z, i) => (
            <g key={z.slug} className={`zone-course way${i}`}>
              <line className="goal" x1={LEFT} x2={width - right} y1={y(z.setpoint_c)} y2={y(z.setpoint_c)} />
              <polyline points={z.reading_c.map((c, k) => `${x(found.time_s[k]!).toFixed(1)},${y(c).toFixed(1)}`).join(' ')} />
              {z.holds_s !== null && <circle cx={x(z.holds_s)} cy={y(z.setpoint_c)} r={5} style={{ fill: heat(z.setpoint_c, theme) }} />}
            </g>
          ))}
          {right === RIGHT &&
            names.map((n) => (
              <text key={n.i} className="name" x={width - right + 8} y={n.label + 5}>
                {n.name}
              </text>
            ))}
        </svg>
      </div>
      <p>
        {found.holds_s === null ? 'Not all of them ever hold.' : `All hold after ${spoken(found.holds_s)}.`} <Said>{found.draws}</Said>
      </p>
      <ul className="plain-list">
        {found.zones.map((z) => (
          <li key={z.slug}>
            <b>{z.name}</b>{' '}
            {z.begins_s === null
              ? 'never begins: the one before it never holds'
              : `${z.begins_s ? `begins after ${spoken(z.begins_s)}, ` : ''}${
                  z.holds_s === null ? 'never gets there' : `holds after ${spoken(z.holds_s)}`
                }, passes its set-point by ${say(z.over_c, 'temperature_difference', unit)}`}
          </li>
        ))}
      </ul>
    </>
  )
}
