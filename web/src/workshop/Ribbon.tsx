import { useState } from 'react'
import type { Schemas } from '../api/client'
import { heat } from '../look/heat'
import { usePreferences } from '../shell/preferences'

const DAYS = 21
const WIDTH = 740
const HEIGHT = 112
const BASE = 84

interface Props {
  runs: Schemas['RibbonRun'][]
  highest: number
  ambient?: number
}

/** What ran in the last three weeks: one shape a run, as long as it took, as high and as tinted as it was hot. */
export function Ribbon({ runs, highest, ambient = 21 }: Props) {
  const { theme } = usePreferences()
  const [now] = useState(() => Date.now())
  const x = (time: number) => WIDTH - 16 - ((now - time) / 86_400_000 / DAYS) * (WIDTH - 16 - 40)
  return (
    <svg className="ribbon" viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label={`${runs.length} runs in three weeks`}>
      {[21, 14, 7].map((d) => (
        <g key={d}>
          <line x1={x(now - d * 86_400_000)} x2={x(now - d * 86_400_000)} y1={8} y2={BASE + 6} stroke="var(--hair)" />
          <text x={x(now - d * 86_400_000)} y={HEIGHT - 8} textAnchor="middle">
            {d} d ago
          </text>
        </g>
      ))}
      <line x1={20} x2={WIDTH - 6} y1={BASE} y2={BASE} stroke="var(--line)" />
      {runs.map((r) => {
        const start = x(new Date(r.started_at).getTime())
        const end = Math.max(x(new Date(r.started_at).getTime() + r.length_s * 1000), start + 7)
        const top = BASE - Math.max(4, (BASE - 10) * Math.min(((r.peak_c ?? ambient) - ambient) / (highest - ambient), 1))
        const lean = Math.min((end - start) * 0.25, 5)
        return (
          <polygon
            key={r.id}
            points={`${start},${BASE} ${start + lean},${top} ${end - lean},${top} ${end},${BASE}`}
            fill={heat(r.peak_c, theme)}
          >
            <title>{r.name}</title>
          </polygon>
        )
      })}
      <line x1={WIDTH - 16} x2={WIDTH - 16} y1={4} y2={BASE + 8} stroke="var(--ink)" strokeWidth={2.5} />
      <text x={WIDTH - 16} y={HEIGHT - 8} textAnchor="middle" style={{ fill: 'var(--ink)' }}>
        now
      </text>
    </svg>
  )
}
