import { useId, useRef, useState } from 'react'
import { heat } from '../look/heat'
import { spread, ticks } from '../shared/placing'
import { useWidth } from '../shared/useWidth'
import { usePreferences } from '../shell/preferences'
import { useShow } from '../shell/reason'
import { said } from '../units/message'
import { absolute, difference, fixed, say, toCelsius, type Unit } from '../units/quantity'
import { celsiusOf, isSetpointLimit, type LadderView, movable, type Plan, type Step } from './plan'

const BAR = 26
const LEFT = 48
const TOP = 16
const GAP_AT = LEFT + BAR + 22
const ROW = 38
/** Of the whole width, where names begin, and where what they say. */
const NARROW = 560

interface Props {
  ladder: LadderView
  plan: Plan
  /** Where the set-point limit was moved to, which is not in the plan. */
  setpointLimit: number | null
  height: number
  onMove: (step: Step, celsius: number) => void
}

/** What is worth drawing to scale: from below work to what must never be reached; the rest is named above and below it. */
function focus(ladder: LadderView): [number, number] {
  const away = ['material', 'full_power', ...(ladder.stuck ? ['lowest', 'fuse'] : [])]
  const near = ladder.steps.filter((s) => !away.includes(s.rung) && !(ladder.stuck && isOther(ladder, s)))
  const weakest = ladder.steps.find((s) => s.key === ladder.weakest)
  const all = [...near, ...(weakest ? [weakest] : [])].flatMap((s) => [s.low, s.high])
  const [low, high] = [Math.min(...all), Math.max(...all)]
  const room = Math.max((high - low) * 0.12, 1)
  return [low - room, high + room]
}

/** An alarm on the side that is not dangerous. */
const isOther = (ladder: LadderView, step: Step) => {
  const [working, weakest] = [ladder.steps.find((s) => s.rung === 'working'), ladder.steps.find((s) => s.key === ladder.weakest)]
  return (
    step.rung === 'alarm' &&
    !!working &&
    !!weakest &&
    Math.sign(step.celsius - working.celsius) !== Math.sign(weakest.celsius - working.celsius)
  )
}

const TONE: Partial<Record<Step['rung'], string>> = {
  limiter: 'danger',
  after_trip: 'danger',
  fuse: 'danger',
  alarm: 'fault',
  maximum: 'fault',
  running: 'dim',
  tuning: 'dim',
  full_power: 'dim',
  lowest: 'dim',
  cooler: 'dim',
}

/** The ladder: everything that has a temperature on one scale, the gaps between as far as they are wide enough. Steps of the plan can be
 * dragged, or moved by the arrow keys. */
export function Ladder({ ladder, plan, setpointLimit, height, onMove }: Props) {
  const id = useId()
  const box = useRef<HTMLDivElement>(null)
  const width = useWidth(box)
  const { unit, theme } = usePreferences()
  const show = useShow()
  const [drag, setDrag] = useState<{ step: Step; celsius: number } | null>(null)
  const [low, high] = focus(ladder)
  const placedAt = (step: Step) => (drag?.step.key === step.key ? drag.celsius : atRest(step))
  const atRest = (step: Step) =>
    setpointLimit !== null && isSetpointLimit(step) ? setpointLimit : celsiusOf(plan, step, ladder.setpoint_c)
  const [inside, above, below] = split(ladder.steps, low, high)
  const top = TOP + (above.length ? 20 : 0)
  const bottom = height - TOP - (below.length ? 14 : 0)
  const y = (c: number) => top + ((high - c) / (high - low)) * (bottom - top)
  const at = (pixel: number) => high - ((pixel - top) / (bottom - top)) * (high - low)
  const labels = GAP_AT + (width < NARROW ? 34 : 92)
  const space = bottom - top + (below.length ? 8 : 30) // labels may stand a little beyond the scale, not on what is named below it
  const placed = spread(
    inside.map((s) => ({ step: s, y: y(placedAt(s)) - top + 15 })),
    Math.min(ROW, (space - 36) / Math.max(inside.length - 1, 1)),
    space,
  ).map((p) => ({ ...p, y: p.y + top - 15, label: p.label + top - 15 }))
  const nearest = (beyond: Step[], k: number) =>
    (k ? beyond : [...beyond].reverse()).map((s) => `${said(s.name, unit)} ${degrees(s.celsius, unit)}`).join(' · ')
  const size = (step: Step) => (Math.abs(step.celsius) >= 100 ? 1 : 0.5)
  const rounded = (celsius: number, step: Step) => Math.round(celsius / size(step)) * size(step)
  const place = new Map(placed.map((p) => [p.step.key, p.y]))
  const stops = Array.from({ length: 13 }, (_, i) => high - ((high - low) * i) / 12)
  const pointer = (event: React.PointerEvent) => at(event.clientY - box.current!.getBoundingClientRect().top)
  return (
    <div ref={box} className="ladder">
      <svg width={width} height={height} role="group" aria-label="The ladder, from the hottest down">
        <defs>
          <linearGradient id={id} x1="0" x2="0" y1="0" y2="1">
            {stops.map((c, i) => (
              <stop key={c} offset={i / 12} stopColor={heat(c, theme)} />
            ))}
          </linearGradient>
        </defs>
        <rect x={LEFT} y={top} width={BAR} height={bottom - top} fill={`url(#${id})`} />
        {ticks(absolute(low, unit), absolute(high, unit)).map((t) => (
          <g key={t} className="scaletick">
            <text x={LEFT - 8} y={y(toCelsius(t, unit)) + 5}>
              {fixed(t, 0)}
            </text>
            <line x1={LEFT} x2={LEFT + BAR} y1={y(toCelsius(t, unit))} y2={y(toCelsius(t, unit))} />
          </g>
        ))}
        {[above, below].map(
          (beyond, k) =>
            beyond.length > 0 && (
              <g key={k} className="rung beyond">
                <path
                  className="break"
                  d={k ? `M${LEFT} ${bottom + 4}l7 5l6 -5l7 5l6 -5` : `M${LEFT} ${top - 4}l7 -5l6 5l7 -5l6 5`}
                  fill="none"
                />
                <text className="says" x={LEFT + BAR + 12} y={k ? bottom + 16 : top - 8}>
                  {cut(`${k ? 'below' : 'above'}: ${nearest(beyond, k)}`, (width - LEFT - BAR) / 6.8)}
                </text>
              </g>
            ),
        )}
        {placed.map(({ step, y: here, label: to }) => {
          const moves = movable(step)
          const celsius = placedAt(step)
          return (
            <g key={step.key} className={`rung ${TONE[step.rung] ?? ''} ${step.key === ladder.weakest ? 'weakest' : ''}`}>
              {step.high > step.low && (
                <rect
                  className="maybe"
                  x={LEFT + BAR + 4}
                  y={Math.max(y(Math.min(step.high, high)), top)}
                  width={8}
                  height={Math.max(y(Math.max(step.low, low)) - y(Math.min(step.high, high)), 2)}
                />
              )}
              <polyline points={`${LEFT},${here} ${labels - 40},${here} ${labels - 18},${to} ${labels - 6},${to}`} />
              <text className="degrees" x={labels} y={to + 6}>
                {degrees(celsius, unit)}
              </text>
              <text className="name" x={labels + 66} y={to + (width < NARROW ? 6 : 0)}>
                {said(step.name, unit)}
              </text>
              {width >= NARROW && (
                <text className="says" x={labels + 66} y={to + 16}>
                  {cut(said(step.says, unit), (width - labels - 66) / 6.6)}
                </text>
              )}
              {moves && (
                <rect
                  className="handle"
                  role="slider"
                  tabIndex={0}
                  aria-label={`${said(step.name, unit)}, moved by the arrow keys`}
                  aria-valuenow={celsius}
                  aria-valuetext={say(celsius, 'temperature', unit)}
                  aria-orientation="vertical"
                  x={labels - 6}
                  y={to - 17}
                  width={Math.min(260, width - labels)}
                  height={36}
                  onPointerDown={(e) => {
                    e.currentTarget.setPointerCapture(e.pointerId)
                    setDrag({ step, celsius })
                  }}
                  onPointerMove={(e) =>
                    drag?.step.key === step.key &&
                    setDrag({ step, celsius: rounded(pointer(e) + (to - here) * ((high - low) / (bottom - top)), step) })
                  }
                  onPointerUp={() => {
                    if (drag && drag.celsius !== atRest(step)) onMove(step, drag.celsius)
                    setDrag(null)
                  }}
                  onKeyDown={(e) => {
                    const by = { ArrowUp: 1, ArrowDown: -1, PageUp: 10, PageDown: -10 }[e.key]
                    if (!by) return
                    e.preventDefault()
                    onMove(step, rounded(celsius + by * size(step), step))
                  }}
                />
              )}
            </g>
          )
        })}
        {ladder.gaps
          .filter((g) => place.has(g.below) && place.has(g.above))
          .map((g, i) => {
            const [from, to] = [place.get(g.below)!, place.get(g.above)!]
            const x = GAP_AT + (i % 3) * (width < NARROW ? 9 : 22)
            const words = g.fine
              ? fixed(difference(g.present_c, unit), 0)
              : `${fixed(difference(g.present_c, unit), 0)}, needs ${fixed(difference(g.needed.value, unit), 0)}`
            return (
              <g
                key={g.key}
                className={`gapbar ${g.fine ? 'fine' : 'bad'}`}
                role="button"
                tabIndex={0}
                aria-label={`${called(ladder, g.below, unit)} to ${called(ladder, g.above, unit)}: ${words}, ${g.fine ? 'wide enough' : 'too narrow'}; why`}
                onClick={() =>
                  show({
                    figure: {
                      ...g.needed,
                      name: `needed between ${called(ladder, g.below, unit)} and ${called(ladder, g.above, unit)}`,
                      reason: g.reason,
                    },
                  })
                }
                onKeyDown={(e) =>
                  e.key === 'Enter' &&
                  show({
                    figure: {
                      ...g.needed,
                      name: `needed between ${called(ladder, g.below, unit)} and ${called(ladder, g.above, unit)}`,
                      reason: g.reason,
                    },
                  })
                }
              >
                <rect x={x - 8} y={Math.min(from, to)} width={22} height={Math.max(Math.abs(from - to), 6)} className="touch" />
                <rect x={x} y={Math.min(from, to)} width={6} height={Math.max(Math.abs(from - to), 4)} />
                {width >= NARROW && (
                  <text x={x + 10} y={(from + to) / 2 + 5}>
                    {fixed(difference(g.present_c, unit), 0)}
                  </text>
                )}
              </g>
            )
          })}
      </svg>
    </div>
  )
}

const degrees = (celsius: number, unit: Unit) => {
  const value = absolute(celsius, unit)
  return fixed(value, Math.abs(value - Math.round(value)) < 0.05 ? 0 : 1)
}

const called = (ladder: LadderView, key: string, unit: Unit) => said(ladder.steps.find((s) => s.key === key)?.name ?? key, unit)

const cut = (text: string, most: number) => (text.length > most ? `${text.slice(0, Math.max(most - 1, 8))}…` : text)

/** Within the focus, above it (hottest first) and below it. */
function split(steps: Step[], low: number, high: number): [Step[], Step[], Step[]] {
  const down = [...steps].sort((a, b) => b.celsius - a.celsius)
  return [
    down.filter((s) => s.celsius >= low && s.celsius <= high),
    down.filter((s) => s.celsius > high),
    down.filter((s) => s.celsius < low),
  ]
}
