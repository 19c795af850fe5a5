import { useRef } from 'react'
import type { Schemas } from '../api/client'
import { ticks } from '../shared/placing'
import { useWidth } from '../shared/useWidth'
import { usePreferences } from '../shell/preferences'
import { absolute, fixed, quantity, toCelsius } from '../units/quantity'

const LEFT = 84
const RIGHT = 14
const HEIGHT = 210
const FOOT = 40
const TOP = 12

/** How fast a furnace climbs at full power, from cold to the hottest it was recorded at: what it is left with where it is hot. */
export function Furnace({ furnace }: { furnace: Schemas['FurnaceView'] }) {
  const box = useRef<HTMLDivElement>(null)
  const width = useWidth(box)
  const { unit } = usePreferences()
  const climbs = furnace.climbs
  const [first, last] = [climbs[0]!, climbs[climbs.length - 1]!]
  const most = Math.max(...climbs.map((c) => c.high)) * 1.05
  const x = (celsius: number) => LEFT + ((celsius - first.celsius) / (last.celsius - first.celsius)) * (width - LEFT - RIGHT)
  const y = (rate: number) => TOP + (1 - rate / most) * (HEIGHT - FOOT - TOP)
  const along = (of: 'low' | 'likely' | 'high', back = false) =>
    (back ? [...climbs].reverse() : climbs).map((c) => `${x(c.celsius)},${y(c[of])}`).join(' ')
  return (
    <section aria-label="Climb at full power">
      <h2>How fast does it climb at full power?</h2>
      <div ref={box} className="over-temperature">
        <svg width={width} height={HEIGHT} role="img" aria-label="Climb at full power over temperature">
          {ticks(0, most, 4).map((rate) => (
            <g key={rate} className="scale">
              <line x1={LEFT} x2={width - RIGHT} y1={y(rate)} y2={y(rate)} />
              <text x={LEFT - 8} y={y(rate) + 5} textAnchor="end">
                {quantity(rate, 'temperature_rate', unit).text}
              </text>
            </g>
          ))}
          {ticks(absolute(first.celsius, unit), absolute(last.celsius, unit), width < 500 ? 4 : 7).map((t) => (
            <text key={t} className="foot" x={x(toCelsius(t, unit))} y={HEIGHT - FOOT + 20} textAnchor="middle">
              {fixed(t, 0)}°
            </text>
          ))}
          <polygon className="may-be" points={`${along('low')} ${along('high', true)}`} />
          <polyline className="probably" points={along('likely')} />
        </svg>
      </div>
      <p className="small dim">
        From cold, in °{unit} each minute against its temperature; shaded what it may be. A ramp from cold that asks for more gets behind
        there. Hotter than {fixed(absolute(furnace.up_to_c, unit), 0)}° it was not recorded.
      </p>
    </section>
  )
}
