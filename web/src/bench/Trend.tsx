import { useRef } from 'react'
import type { Point } from '../api/live'
import { heat } from '../look/heat'
import { useWidth } from '../shared/useWidth'
import { usePreferences } from '../shell/preferences'
import { absolute } from '../units/quantity'
import { stretches } from './trend'

const LEFT = 48
const FOOT = 24
/** How far off a set-point may be, in heights of the reading's own course, to be drawn with it. */
const NEAR = 3

/** The last stretch as a line; where nothing was heard there is none. */
export function Trend({ points, span, height = 190 }: { points: Point[]; span: number; height?: number }) {
  const { unit, theme } = usePreferences()
  const frame = useRef<HTMLDivElement>(null)
  const width = useWidth(frame, 600)
  const readings = points.flatMap((p) => (p[1] == null ? [] : [p[1]]))
  if (!readings.length)
    return (
      <div ref={frame} className="trend" style={{ height }}>
        <p className="wait">The line begins with the next reading.</p>
      </div>
    )
  const own = [Math.min(...readings), Math.max(...readings)] as const
  const reach = NEAR * Math.max(own[1] - own[0], 2)
  const near = points.flatMap((p) => (p[2] != null && p[2] > own[0] - reach && p[2] < own[1] + reach ? [p[2]] : []))
  const [low, high] = [Math.min(own[0], ...near), Math.max(own[1], ...near)]
  const room = Math.max((high - low) * 0.12, 0.5)
  const end = points.at(-1)![0]
  const x = (t: number) => LEFT + ((t - (end - span)) / span) * (width - LEFT - 4)
  const y = (v: number) => 6 + (1 - (v - low + room) / (high - low + 2 * room)) * (height - FOOT - 8)
  const path = (of: 1 | 2) =>
    stretches(points, of)
      .map((s) => s.map(([t, v], i) => `${i ? 'L' : 'M'}${x(t).toFixed(1)} ${y(v).toFixed(1)}`).join(' '))
      .join(' ')
  const ago = span >= 3600 ? `${span / 3600} h` : `${span / 60} min`
  const clip = `trend-${ago.replace(' ', '')}-${Math.round(width)}`
  return (
    <div ref={frame} className="trend" style={{ height }}>
      <svg width={width} height={height} role="img" aria-label={`The last ${ago}`}>
        <clipPath id={clip}>
          <rect x={LEFT} y={0} width={Math.max(width - LEFT, 0)} height={height - FOOT} />
        </clipPath>
        {[...new Set([low, high])].map((v) => (
          <g key={v}>
            <line x1={LEFT} x2={width} y1={y(v)} y2={y(v)} stroke="var(--hair)" />
            <text x={LEFT - 6} y={y(v) + 5} textAnchor="end" className="num">
              {absolute(v, unit).toFixed(high - low < 3 ? 1 : 0)}°
            </text>
          </g>
        ))}
        <text x={LEFT} y={height - 5}>
          {ago} ago
        </text>
        <text x={width - 2} y={height - 5} textAnchor="end">
          now
        </text>
        <g clipPath={`url(#${clip})`} fill="none" strokeLinecap="round" strokeLinejoin="round">
          {near.length > 0 && <path d={path(2)} stroke="var(--ink)" strokeWidth={2} strokeDasharray="1 5" />}
          <path d={path(1)} stroke={heat(readings.at(-1)!, theme)} strokeWidth={3} />
        </g>
      </svg>
    </div>
  )
}
