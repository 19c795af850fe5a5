import { useRef, useState } from 'react'
import { heat } from '../look/heat'
import { ticks } from '../shared/placing'
import { useWidth } from '../shared/useWidth'
import { usePreferences } from '../shell/preferences'
import { absolute, fixed, say, toCelsius } from '../units/quantity'
import { type Forecast, lasts, type Profile } from './data'
import { CLEAR, placed, spoken, timeTicks, WORDS } from './scale'

const LEFT = 64
const RIGHT = 10
const TOP = 14
const HEIGHT = 372
const STRIP = 64
const FOOT = 26
const GAP = 14
const REACH = 22

interface Props {
  profile: Profile
  forecast: Forecast
  power: number
  chosen: number
  behind: boolean
  onChoose: (segment: number) => void
  /** A corner was moved: segment, temperature of its end, how long it lasts, where it began. */
  onMove: (segment: number, celsius: number, lasts: number, from: number) => void
}

/** The profile and what the rig makes of it. Corners are dragged, or moved by the arrow keys; the power with what is left stands below. */
export function Picture({ profile, forecast, power, chosen, behind, onChoose, onMove }: Props) {
  const box = useRef<HTMLDivElement>(null)
  const width = useWidth(box)
  const { unit, theme } = usePreferences()
  const [drag, setDrag] = useState<{ corner: number; time: number; celsius: number } | null>(null)
  const { course, corners, marks } = forecast
  const begins = course.setpoint_c[0] ?? 20
  const end = Math.max(course.time_s.at(-1) ?? 1, forecast.other?.time_s.at(-1) ?? 1, corners.at(-1)?.time_s ?? 1, 1)
  const all = [...course.low_c, ...course.high_c, ...course.setpoint_c, ...corners.map((c) => c.celsius)]
  const [low, high] = padded(Math.min(...all), Math.max(...all))
  const bottom = HEIGHT - STRIP - FOOT - GAP
  const x = (t: number) => LEFT + (t / end) * (width - LEFT - RIGHT)
  const y = (c: number) => TOP + ((high - c) / (high - low)) * (bottom - TOP)
  const strip = (p: number) => HEIGHT - FOOT - (p / 100) * STRIP
  const line = (values: number[], at: (v: number) => number) =>
    values.map((v, i) => `${i ? 'L' : 'M'}${x(course.time_s[i]!).toFixed(1)} ${at(v).toFixed(1)}`).join('')
  const handles = firstPasses(corners)
  const planned = [{ time_s: 0, celsius: begins, segment: -1 }, ...corners]
  const before = (corner: number) => planned[corner]!
  const moved = (corner: number, time: number, celsius: number) => {
    const from = before(corner)
    onMove(corners[corner]!.segment, celsius, Math.max(time - from.time_s, 0), from.celsius)
  }
  const at = (event: React.PointerEvent) => {
    const frame = box.current!.getBoundingClientRect()
    const celsius = high - ((event.clientY - frame.top - TOP) / (bottom - TOP)) * (high - low)
    const time = Math.max(((event.clientX - frame.left - LEFT) / (width - LEFT - RIGHT)) * end, 0)
    const grid = toCelsius(Math.round(absolute(celsius, unit)), unit)
    return { time: Math.round(time / tidy(end)) * tidy(end), celsius: grid }
  }
  const hours = timeTicks(end, width)
  const lasting = marks.filter((m) => m.end_s > m.start_s)
  const places = placed(
    lasting.map((m) => Math.min(x(m.start_s) + CLEAR, width - WORDS)),
    corners.map((c) => [x(c.time_s), y(c.celsius)] as const),
    [TOP + 14, bottom - 8],
  )
  return (
    <div ref={box} className={`profile-picture ${behind ? 'behind' : ''}`}>
      <svg width={width} height={HEIGHT} role="group" aria-label="The profile, and how this rig follows it">
        {ticks(absolute(low, unit), absolute(high, unit), 6).map((t) => (
          <g key={t} className="scale">
            <line x1={LEFT} x2={width - RIGHT} y1={y(toCelsius(t, unit))} y2={y(toCelsius(t, unit))} />
            <text x={LEFT - 8} y={y(toCelsius(t, unit)) + 5} textAnchor="end">
              {fixed(t, 0)}°
            </text>
          </g>
        ))}
        {lasting.map((m, i) => (
          <g key={`${m.segment} ${m.why}`} className={`unfollowed ${m.sure ? 'sure' : ''}`}>
            <rect x={x(m.start_s)} y={TOP} width={Math.max(x(m.end_s) - x(m.start_s), 2)} height={bottom - TOP} />
            <text x={places[i]![0]} y={places[i]![1]}>
              {WHY[m.why]}
            </text>
          </g>
        ))}
        <path className="maybe" d={`${line(course.high_c, y)}${reversed(course.time_s, course.low_c, x, y)}Z`} />
        <path className="core" d={line(course.core_c, y)} />
        {forecast.other && (
          <path
            className="core other"
            d={forecast.other.core_c
              .map((c, i) => `${i ? 'L' : 'M'}${x(forecast.other!.time_s[i]!).toFixed(1)} ${y(c).toFixed(1)}`)
              .join('')}
          />
        )}
        <path className="predicted" d={line(course.reading_c, y)} stroke={heat(Math.max(...course.reading_c), theme)} />
        <polyline
          className="planned"
          points={planned
            .map((c, i) => {
              const dragging = drag && i - 1 === drag.corner
              return `${x(dragging ? drag.time : c.time_s).toFixed(1)},${y(dragging ? drag.celsius : c.celsius).toFixed(1)}`
            })
            .join(' ')}
        />
        {handles.map((corner) => {
          const c = corners[corner]!
          const here = drag?.corner === corner ? drag : { time: c.time_s, celsius: c.celsius }
          const segment = profile.segments[c.segment]
          if (!segment || segment.kind === 'end' || segment.kind === 'wait') return null
          return (
            <g key={corner} className={`corner ${c.segment === chosen ? 'chosen' : ''}`}>
              <circle className="dot" cx={x(here.time)} cy={y(here.celsius)} r={c.segment === chosen ? 8 : 6} />
              <circle
                className="touch"
                cx={x(here.time)}
                cy={y(here.celsius)}
                r={REACH}
                tabIndex={0}
                role="slider"
                aria-label={`End of segment ${c.segment + 1}`}
                aria-valuenow={Math.round(absolute(here.celsius, unit))}
                aria-valuetext={`${say(here.celsius, 'temperature', unit)} after ${spoken(here.time)}`}
                onFocus={() => onChoose(c.segment)}
                onPointerDown={(e) => {
                  e.currentTarget.setPointerCapture(e.pointerId)
                  onChoose(c.segment)
                  setDrag({ corner, ...here })
                }}
                onPointerMove={(e) => {
                  if (drag?.corner !== corner) return
                  const to = at(e)
                  const next = {
                    corner,
                    time: segment.kind === 'step' ? c.time_s : Math.max(to.time, before(corner).time_s),
                    celsius: segment.kind === 'soak' ? c.celsius : to.celsius,
                  }
                  setDrag(next)
                  moved(corner, next.time, next.celsius)
                }}
                onPointerUp={() => setDrag(null)}
                onPointerCancel={() => setDrag(null)}
                onKeyDown={(e) => {
                  const big = e.shiftKey ? 10 : 1
                  const by = KEYS[e.key]
                  if (!by) return
                  e.preventDefault()
                  const from = before(corner).celsius
                  const now = segment.target_c ?? c.celsius // of the profile: the forecast may be behind
                  const celsius = segment.kind === 'soak' ? now : toCelsius(absolute(now, unit) + by[1] * big, unit)
                  onMove(c.segment, celsius, Math.max(lasts(segment, from) + by[0] * big * tidy(end), 0), from)
                }}
              />
            </g>
          )
        })}
        <g className="strip">
          <rect x={LEFT} y={strip(100)} width={Math.max(width - LEFT - RIGHT, 0)} height={STRIP} />
          <path
            d={`M${x(0)} ${strip(0)}${course.output.map((v, i) => `L${x(course.time_s[i]!).toFixed(1)} ${strip(v).toFixed(1)}`).join('')}L${x(course.time_s.at(-1) ?? 0)} ${strip(0)}Z`}
          />
          <text x={LEFT - 8} y={strip(100) + 12} textAnchor="end">
            {power >= 1000 ? `${fixed(power / 1000, 1)} kW` : `${fixed(power, 0)} W`}
          </text>
          <text x={LEFT - 8} y={strip(0)} textAnchor="end">
            0
          </text>
        </g>
        {hours.map((t) => (
          <text key={t} className="hour" x={x(t)} y={HEIGHT - 6} textAnchor={t ? 'middle' : 'start'}>
            {t ? spoken(t) : 'start'}
          </text>
        ))}
      </svg>
    </div>
  )
}

const KEYS: Record<string, [number, number]> = { ArrowUp: [0, 1], ArrowDown: [0, -1], ArrowRight: [1, 0], ArrowLeft: [-1, 0] }
const WHY: Record<Forecast['marks'][number]['why'], string> = {
  flat_out: 'heater flat out',
  nature: 'nothing cools it so fast',
  cooler: 'its cooler takes no more',
  never: 'never gets there',
  swings: 'the control swings',
}

/** Of a loop only the first passage can be taken hold of. */
function firstPasses(corners: Forecast['corners']): number[] {
  const seen = new Set<number>()
  return corners.flatMap((c, i) => (seen.has(c.segment) ? [] : (seen.add(c.segment), [i])))
}

function padded(low: number, high: number): [number, number] {
  const room = Math.max((high - low) * 0.07, 2)
  return [low - room, high + room]
}

function reversed(times: number[], values: number[], x: (t: number) => number, y: (v: number) => number): string {
  return [...values.keys()]
    .reverse()
    .map((i) => `L${x(times[i]!).toFixed(1)} ${y(values[i]!).toFixed(1)}`)
    .join('')
}

/** By how much a drag moves a time: a hundredth of the whole or so, as a round number of s. */
function tidy(end: number): number {
  return [1, 5, 10, 30, 60, 300, 600, 900, 1800, 3600].find((s) => end / s <= 200) ?? 7200
}
