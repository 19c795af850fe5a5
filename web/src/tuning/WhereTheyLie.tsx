import { type PointerEvent, useRef } from 'react'
import { useWidth } from '../shared/useWidth'
import { usePreferences } from '../shell/preferences'
import { say } from '../units/quantity'
import type { Candidate } from './lines'

const HEIGHT = 210
const LEFT = 66
const BOTTOM = 40
const LETTER = 8

interface Props {
  candidates: Candidate[]
  /** Those that nothing beats, soonest first. */
  front: string[]
  chosen: string
  onPick: (key: string) => void
}

/** Overshoot against time, both at the most: what gives up one for the other. Press a point to pick it; the chosen one is drawn along the
 *  line of those that nothing beats, by the pointer or by arrow keys. */
export function WhereTheyLie({ candidates, front, chosen, onPick }: Props) {
  const { unit } = usePreferences()
  const place = useRef<HTMLElement>(null)
  const drawn = useRef(false)
  const width = useWidth(place)
  const points = candidates.flatMap((c) => {
    const over = c.outcome.find((f) => f.name === 'overshoot')?.high
    const back = c.outcome.find((f) => f.name === 'there for good')?.high
    return over == null || back == null || c.swings ? [] : [{ key: c.key, name: c.name, over, back }]
  })
  if (points.length < 3) return null
  const most = Math.max(...points.map((p) => p.over)) * 1.08 || 1
  const late = Math.max(...points.map((p) => p.back)) * 1.08
  const x = (s: number) => LEFT + (s / late) * (width - LEFT - 20)
  const y = (c: number) => HEIGHT - BOTTOM - (c / most) * (HEIGHT - BOTTOM - 16)
  const best = front.flatMap((key) => points.find((p) => p.key === key) ?? [])
  const leftwards = (p: { name: string; back: number }) => x(p.back) + 20 + p.name.length * LETTER > width
  const named = points.find((p) => p.key === chosen)
  const drawTo = (e: PointerEvent<SVGSVGElement>) => {
    const box = e.currentTarget.getBoundingClientRect()
    const away = (p: { back: number; over: number }) => Math.hypot(x(p.back) - (e.clientX - box.left), y(p.over) - (e.clientY - box.top))
    const nearest = best.reduce<(typeof best)[0] | undefined>((found, p) => (!found || away(p) < away(found) ? p : found), undefined)
    if (nearest && nearest.key !== chosen) onPick(nearest.key)
  }
  const along = (key: string, by: number) => {
    const at = best.findIndex((p) => p.key === key)
    const next = best[at < 0 ? 0 : at + by]
    if (!next) return
    onPick(next.key)
    place.current?.querySelector<SVGElement>(`[data-key="${next.key}"]`)?.focus()
  }
  return (
    <section aria-label="Overshoot against time" className="lie" ref={place}>
      <h2>What gives up one for the other</h2>
      <p className="small dim">Press a point, or drag the filled one along the dashed line.</p>
      <svg
        width={width}
        height={HEIGHT}
        role="group"
        aria-label="Overshoot against the time until it is there for good, at the most"
        onPointerDown={(e) => {
          if ((e.target as Element).getAttribute('data-key') !== chosen) return
          drawn.current = true
          e.currentTarget.setPointerCapture(e.pointerId)
        }}
        onPointerMove={(e) => drawn.current && drawTo(e)}
        onPointerUp={() => (drawn.current = false)}
        onPointerCancel={() => (drawn.current = false)}
      >
        <g className="scale">
          <line x1={LEFT} x2={width - 20} y1={y(0)} y2={y(0)} />
          <line x1={LEFT} x2={LEFT} y1={16} y2={y(0)} />
        </g>
        <text x={LEFT - 8} y={y(0)} textAnchor="end">
          {say(0, 'temperature_difference', unit)}
        </text>
        <text x={LEFT - 8} y={26} textAnchor="end">
          {say(most, 'temperature_difference', unit)}
        </text>
        <text x={width - 20} y={HEIGHT - 18} textAnchor="end">
          there for good: {say(late, 'time', unit)}
        </text>
        <text x={LEFT + 8} y={26}>
          overshoot, at the most
        </text>
        <polyline className="front" points={best.map((p) => `${x(p.back)},${y(p.over)}`).join(' ')} />
        {points.map((p) => (
          <circle
            key={p.key}
            data-key={p.key}
            role="button"
            tabIndex={0}
            aria-label={`${p.name}: ${say(p.over, 'temperature_difference', unit)} over, there after ${say(p.back, 'time', unit)}`}
            aria-pressed={p.key === chosen}
            className={`${p.key === chosen ? 'chosen' : ''} ${front.includes(p.key) ? 'best' : ''}`}
            cx={x(p.back)}
            cy={y(p.over)}
            r={p.key === chosen ? 9 : 7}
            onClick={() => onPick(p.key)}
            onKeyDown={(e) => {
              const by = { ArrowRight: 1, ArrowLeft: -1 }[e.key]
              if (!by && e.key !== 'Enter' && e.key !== ' ') return
              e.preventDefault()
              if (by) along(p.key, by)
              else onPick(p.key)
            }}
          />
        ))}
        {named && (
          <text
            className="name"
            x={x(named.back) + (leftwards(named) ? -14 : 14)}
            y={Math.max(y(named.over) - 10, 40)}
            textAnchor={leftwards(named) ? 'end' : 'start'}
          >
            {named.name}
          </text>
        )}
      </svg>
    </section>
  )
}
