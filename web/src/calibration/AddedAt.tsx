import { useRef } from 'react'
import type { Schemas } from '../api/client'
import { ticks } from '../shared/placing'
import { useWidth } from '../shared/useWidth'
import { usePreferences } from '../shell/preferences'
import { absolute, difference, fixed, say } from '../units/quantity'

const H = 220
const [L, R, T, B] = [46, 14, 16, 42]

/** What has to be added to the reading at each temperature compared, with its uncertainty, and what the new numbers add. */
export function AddedAt({ found, working }: { found: Schemas['Several']; working: number }) {
  const { unit } = usePreferences()
  const frame = useRef<HTMLDivElement>(null)
  const W = Math.max(useWidth(frame), 280)
  const at = [...found.levels.map((level) => level.reference_c), ...found.drawn.map((d) => d.at_c), working]
  const added = [...found.levels.flatMap((l) => [l.add_c - l.expanded_c, l.add_c + l.expanded_c]), ...found.drawn.map((d) => d.add_c), 0]
  const [low, high] = [Math.min(...at), Math.max(...at)]
  const [least, most] = [Math.min(...added), Math.max(...added)]
  const slack = 0.08 * Math.max(most - least, 0.2)
  const x = (c: number) => L + ((c - low) / Math.max(high - low, 1)) * (W - L - R - 20) + 10
  const y = (c: number) => T + ((most + slack - c) / (most - least + 2 * slack)) * (H - T - B)
  return (
    <div ref={frame}>
      <svg className="offsets" width={W} height={H} role="img" aria-label={`Added at ${found.levels.length} temperatures`}>
        {ticks(difference(least, unit), difference(most, unit), 5).map((t) => (
          <g key={t}>
            <line x1={L} x2={W - R} y1={y(t / difference(1, unit))} y2={y(t / difference(1, unit))} stroke="var(--hair)" />
            <text x={L - 8} y={y(t / difference(1, unit)) + 5} textAnchor="end" style={{ fontFamily: 'var(--figures)' }}>
              {fixed(t, 1)}
            </text>
          </g>
        ))}
        <line x1={x(working)} x2={x(working)} y1={T} y2={H - B} stroke="var(--ink)" strokeDasharray="6 4" />
        <text x={x(working)} y={H - 4} textAnchor={x(working) > W - 90 ? 'end' : x(working) < 90 ? 'start' : 'middle'}>
          the work, {say(working, 'temperature', unit)}
        </text>
        <path d={`M${found.drawn.map((d) => `${x(d.at_c)},${y(d.add_c)}`).join('L')}`} fill="none" stroke="var(--cable)" strokeWidth={3} />
        {found.levels.map((level, i) => (
          <g key={i}>
            <line
              x1={x(level.reference_c)}
              x2={x(level.reference_c)}
              y1={y(level.add_c - level.expanded_c)}
              y2={y(level.add_c + level.expanded_c)}
              stroke="var(--ink)"
              strokeWidth={2}
            />
            <circle
              cx={x(level.reference_c)}
              cy={y(level.add_c)}
              r={6}
              fill={level.within ? 'var(--cable)' : 'var(--fault)'}
              stroke="var(--paper)"
              strokeWidth={2}
            />
            <text x={x(level.reference_c)} y={H - B + 18} textAnchor="middle">
              {fixed(absolute(level.reference_c, unit), 0)}
            </text>
          </g>
        ))}
      </svg>
      <p className="small dim">To be added to the reading, {unit === 'F' ? '°F' : '°C'}; bars: ± U of each comparison.</p>
    </div>
  )
}
