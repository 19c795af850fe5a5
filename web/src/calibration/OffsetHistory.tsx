import { useRef, useState } from 'react'
import { ticks } from '../shared/placing'
import { useWidth } from '../shared/useWidth'
import { day } from '../shared/when'
import { usePreferences } from '../shell/preferences'
import { difference, fixed, quantity } from '../units/quantity'
import type { Compared } from './draft'

const H = 210
const [L, R, T, B] = [46, 112, 16, 30]
/** Dates nearer to each other than this would be written over each other. */
const DATE_PX = 86
const LABEL_PX = 44

const DAY_MS = 86_400_000
/** How far ahead is looked where nothing says when it is compared again. */
const AHEAD_DAYS = 7

/**
 * Offsets over time, as found and as left, with their uncertainty and what a new sensor would explain; where the sensor's record shows it,
 * the offset it needs, with its band, and the day it is compared again.
 */
export function OffsetHistory({ data }: { data: Compared }) {
  const { rows, tolerance_c: tolerance, sensor } = data
  const { unit } = usePreferences()
  const [now] = useState(() => Date.now())
  const frame = useRef<HTMLDivElement>(null)
  const W = Math.max(useWidth(frame), 300)
  if (!rows.length)
    return (
      <div className="empty">
        Nothing compared yet. The offset in the controller is only as good as the last comparison with a trusted thermometer.
      </div>
    )
  const points = [...rows].reverse()
  const times = points.map((p) => new Date(p.at).getTime())
  const start = Math.min(...times, now - 7 * DAY_MS)
  const due = data.due ? new Date(data.due).getTime() : null
  const end = due === null ? now : Math.min(Math.max(now, due + AHEAD_DAYS * DAY_MS), now + 1.2 * (now - start))
  // the offset that would take the sensor's error away, in the controller's own school
  const needed = data.school === 'added_to_reading' ? -1 : 1
  const offsetFor = (c: number) => needed * c - data.beside_c
  const band = (data.drift?.band ?? []).filter((b) => b.day * DAY_MS >= start && b.day * DAY_MS <= end)
  const chart = data.drift?.chart
  const chartEnds = chart ? [offsetFor(chart.low_c), offsetFor(chart.high_c)] : []
  const reach = Math.max(
    ...chartEnds.map((c) => Math.abs(c) * 1.08),
    ...band.map((b) => Math.abs(offsetFor(b.mid_c)) + (tolerance ?? 0) / 4),
    ...points.flatMap((p) => [Math.abs(p.as_found_c) + p.uncertainty_c, Math.abs(p.as_left_c) + p.uncertainty_c]),
    (tolerance ?? 0) * 1.15,
    0.5,
  )
  const x = (t: number) => L + ((t - start) / Math.max(end - start, 1)) * (W - L - R)
  const y = (c: number) => T + ((reach - c) / (2 * reach)) * (H - T - B)
  const last = y(points.at(-1)!.as_left_c)
  const top = y(tolerance ?? 0) + 12
  const explained = Math.abs(top - last) > LABEL_PX ? top : y(-(tolerance ?? 0)) - 20
  return (
    <div ref={frame}>
      <svg className="offsets" width={W} height={H} role="img" aria-label={`Offsets of ${points.length} calibrations`}>
        {tolerance && (
          <rect x={L} width={W - L - R} y={y(tolerance)} height={y(-tolerance) - y(tolerance)} fill="var(--fine)" opacity={0.13} />
        )}
        {tolerance && (
          <text style={{ fill: 'var(--fine)' }}>
            <tspan x={W - R + 8} y={explained}>
              a new sensor
            </tspan>
            <tspan x={W - R + 8} dy={16}>
              explains
            </tspan>
          </text>
        )}
        {band.length > 1 && (
          <>
            <clipPath id="offsets-inside">
              <rect x={L} y={T} width={W - L - R} height={H - T - B} />
            </clipPath>
            <path
              d={`M${[...band.map((b) => [b.day, b.low_c] as const), ...[...band].reverse().map((b) => [b.day, b.high_c] as const)]
                .map(([d, c]) => `${x(d * DAY_MS)},${y(offsetFor(c))}`)
                .join('L')}Z`}
              fill="var(--cable)"
              opacity={0.14}
              clipPath="url(#offsets-inside)"
            />
            <path
              d={`M${band.map((b) => `${x(b.day * DAY_MS)},${y(offsetFor(b.mid_c))}`).join('L')}`}
              fill="none"
              stroke="var(--cable)"
              strokeDasharray="2 5"
              strokeWidth={2}
              clipPath="url(#offsets-inside)"
            />
          </>
        )}
        {chart &&
          chartEnds.map((end) => (
            <g key={end}>
              <line x1={L} x2={W - R} y1={y(end)} y2={y(end)} stroke="var(--fault)" strokeDasharray="2 6" />
              <text x={L + 6} y={y(end) + (end === Math.max(...chartEnds) ? -5 : 15)} style={{ fill: 'var(--fault)' }}>
                chart limit
              </text>
            </g>
          ))}
        {due !== null && due > now && due <= end && (
          <>
            <line x1={x(due)} x2={x(due)} y1={T} y2={H - B} stroke="var(--ink)" strokeDasharray="6 4" />
            <text x={x(due) - 6} y={T + 12} textAnchor="end">
              again {day(data.due!)}
            </text>
          </>
        )}
        {ticks(difference(-reach, unit), difference(reach, unit), 5).map((t) => {
          const at = y(t / difference(1, unit))
          return (
            <g key={t}>
              <line x1={L} x2={W - R} y1={at} y2={at} stroke="var(--hair)" />
              <text x={L - 8} y={at + 5} textAnchor="end" style={{ fontFamily: 'var(--figures)' }}>
                {fixed(t, 1)}
              </text>
            </g>
          )
        })}
        {points.map((p, i) => {
          const [at, until] = [x(times[i]!), x(times[i + 1] ?? now)]
          const strange = p.sensor !== sensor
          return (
            <g key={p.id}>
              <line
                x1={at}
                x2={at}
                y1={y(p.as_left_c - p.uncertainty_c)}
                y2={y(p.as_left_c + p.uncertainty_c)}
                stroke="var(--ink)"
                strokeWidth={2}
              />
              <line x1={at} x2={at} y1={y(p.as_found_c)} y2={y(p.as_left_c)} stroke="var(--cable)" strokeWidth={4} />
              <line
                x1={at}
                x2={until}
                y1={y(p.as_left_c)}
                y2={y(p.as_left_c)}
                stroke={strange ? 'var(--fault)' : 'var(--cable)'}
                strokeWidth={3}
                strokeDasharray={strange ? '6 4' : undefined}
              />
              <circle cx={at} cy={y(p.as_found_c)} r={5} fill="var(--paper)" stroke="var(--cable)" strokeWidth={2.5} />
              <circle cx={at} cy={y(p.as_left_c)} r={6} fill="var(--cable)" />
              {(i === points.length - 1 || x(times[i + 1]!) - at > DATE_PX) && (
                <text x={Math.max(at, L + 10)} y={H - 8} textAnchor="middle">
                  {day(p.at)}
                </text>
              )}
            </g>
          )
        })}
        <text className="v" x={W - R + 8} y={last + 5}>
          {Object.values(quantity(points.at(-1)!.as_left_c, 'temperature_difference', unit)).join(' ')}
        </text>
        {points.at(-1)!.sensor !== sensor && (
          <text x={W - R + 8} y={last + 23} style={{ fill: 'var(--fault)' }}>
            found with {points.at(-1)!.sensor}, not {sensor}
          </text>
        )}
      </svg>
      {band.length > 1 && (
        <p className="small dim">
          Dotted: the offset this sensor needs, with its band, as far as it goes on as it did.
          {chart && ' Chart limits: where a comparison that scatters like the others stays.'}
        </p>
      )}
    </div>
  )
}
