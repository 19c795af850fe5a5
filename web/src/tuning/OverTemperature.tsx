import { useRef } from 'react'
import type { Schemas } from '../api/client'
import { ticks } from '../shared/placing'
import { useWidth } from '../shared/useWidth'
import { usePreferences } from '../shell/preferences'
import { said } from '../units/message'
import { absolute, fixed, quantity, toCelsius } from '../units/quantity'

const LEFT = 64
const RIGHT = 14
const HEIGHT = 190
const FOOT = 40
const TOP = 12

/** The gain at each temperature it was found at, with its interval, and the line through them. */
export function OverTemperature({ over }: { over: Schemas['OverTemperature'] }) {
  const box = useRef<HTMLDivElement>(null)
  const width = useWidth(box)
  const { unit } = usePreferences()
  const gains = over.points.flatMap((p) => p.gain)
  const [low, high] = [Math.min(0, ...gains), Math.max(...gains) * 1.05]
  const celsius = over.points.map((p) => p.celsius)
  const room = (Math.max(...celsius) - Math.min(...celsius)) * 0.08
  const [cold, hot] = [Math.min(...celsius) - room, Math.max(...celsius) + room]
  const x = (c: number) => LEFT + ((c - cold) / (hot - cold)) * (width - LEFT - RIGHT)
  const y = (k: number) => TOP + ((high - k) / (high - low)) * (HEIGHT - FOOT - TOP)
  return (
    <section aria-label="Gain over temperature">
      <h2>Is it another process when it is hot?</h2>
      <p>{said(over.says, unit)}</p>
      <div ref={box} className="over-temperature">
        <svg width={width} height={HEIGHT} role="img" aria-label="Process gain over temperature">
          {ticks(low, high, 4).map((k) => (
            <g key={k} className="scale">
              <line x1={LEFT} x2={width - RIGHT} y1={y(k)} y2={y(k)} />
              <text x={LEFT - 8} y={y(k) + 5} textAnchor="end">
                {quantity(k, 'process_gain', unit).text}
              </text>
            </g>
          ))}
          {ticks(absolute(cold, unit), absolute(hot, unit), 6).map((t) => (
            <text key={t} className="foot" x={x(toCelsius(t, unit))} y={HEIGHT - FOOT + 20} textAnchor="middle">
              {fixed(t, 0)}°
            </text>
          ))}
          <line className="line" x1={x(over.line_c[0]!)} x2={x(over.line_c[1]!)} y1={y(over.line[0]!)} y2={y(over.line[1]!)} />
          {over.points.map((p) => (
            <g key={p.celsius} className="point">
              <line x1={x(p.celsius)} x2={x(p.celsius)} y1={y(p.gain[0]!)} y2={y(p.gain[2]!)} />
              <circle cx={x(p.celsius)} cy={y(p.gain[1]!)} r={4} />
            </g>
          ))}
        </svg>
      </div>
      <p className="small dim">
        Gain in °{unit} for each per cent of output, with the interval of each record; of a furnace what one more adds there, not the mean
        of the whole way up.{' '}
        {over.pays &&
          `Beside the band found at ${fixed(absolute(celsius[0]!, unit), 0)}°: ${over.points
            .slice(1)
            .map((p, i) => `${fixed(over.bands[i + 1]!, 2)} of it at ${fixed(absolute(p.celsius, unit), 0)}°`)
            .join(', ')}.`}
      </p>
    </section>
  )
}
