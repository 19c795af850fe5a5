import { useId } from 'react'
import { heat } from '../look/heat'
import { usePreferences } from '../shell/preferences'
import { absolute, fixed, toCelsius } from '../units/quantity'
import { spread, ticks } from './placing'
import './scale.css'

export interface Mark {
  celsius: number
  name: string
  says?: string
  tone?: 'danger' | 'fault' | 'fine' | 'dim'
}

interface Props {
  marks: Mark[]
  window?: [number, number]
  height?: number
  label: string
}

const BAR = 26
const LEFT = 46
const GAP = 40

/** One vertical scale of temperature with everything on it at its place; labels step aside rather than overlap. */
export function TemperatureScale({ marks, window: range, height = 420, label }: Props) {
  const id = useId()
  const { unit, theme } = usePreferences()
  const values = marks.map((m) => m.celsius)
  const [lowest, highest] = [Math.min(...values), Math.max(...values)]
  const pad = Math.max((highest - lowest) * 0.1, 2)
  const [low, high] = [lowest - pad, highest + pad]
  const y = (c: number) => 12 + ((high - c) / (high - low)) * (height - 24)
  const placed = spread(
    marks.map((m) => ({ mark: m, y: y(m.celsius) })),
    GAP,
    height,
  )
  const stops = Array.from({ length: 13 }, (_, i) => high - ((high - low) * i) / 12)
  return (
    <svg
      className="scale"
      viewBox={`0 0 350 ${height}`}
      role="img"
      aria-label={`${label}: ${marks.map((m) => `${m.name} ${fixed(absolute(m.celsius, unit), 0)} °${unit}`).join(', ')}`}
    >
      <defs>
        <linearGradient id={id} x1="0" x2="0" y1="0" y2="1">
          {stops.map((c, i) => (
            <stop key={c} offset={i / 12} stopColor={heat(c, theme)} />
          ))}
        </linearGradient>
      </defs>
      <rect x={LEFT} y={12} width={BAR} height={height - 24} fill={`url(#${id})`} />
      {range && <rect className="window" x={LEFT + BAR + 4} y={y(range[1])} width={8} height={Math.max(y(range[0]) - y(range[1]), 2)} />}
      {ticks(absolute(low, unit), absolute(high, unit)).map((t) => {
        const at = y(toCelsius(t, unit))
        return (
          <g key={t}>
            <text className="tick" x={LEFT - 8} y={at + 4}>
              {fixed(t, 0)}
            </text>
            <line className="tickline" x1={LEFT} x2={LEFT + BAR} y1={at} y2={at} />
          </g>
        )
      })}
      {placed.map(({ mark, y: at, label: to }) => (
        <g key={mark.name} className={`mark ${mark.tone ?? ''}`}>
          <polyline points={`${LEFT},${at} ${LEFT + BAR + 30},${at} ${LEFT + BAR + 52},${to} ${LEFT + BAR + 62},${to}`} />
          <text className="value" x={LEFT + BAR + 68} y={to + 5}>
            {fixed(absolute(mark.celsius, unit), Number.isInteger(mark.celsius) ? 0 : 1)}
          </text>
          <text className="name" x={LEFT + BAR + 130} y={to + (mark.says ? -2 : 5)}>
            {mark.name}
          </text>
          {mark.says && (
            <text className="says" x={LEFT + BAR + 130} y={to + 15}>
              {mark.says.length > 26 ? `${mark.says.slice(0, 25)}…` : mark.says}
            </text>
          )}
        </g>
      ))}
    </svg>
  )
}
