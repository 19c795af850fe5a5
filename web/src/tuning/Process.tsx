import { useState } from 'react'
import type { Schemas } from '../api/client'
import { Chart, axes } from '../shared/Chart'
import { Fig } from '../shared/Fig'
import { usePreferences } from '../shell/preferences'
import { said } from '../units/message'
import { absolute, say } from '../units/quantity'
import { useMemo } from 'react'

const VERDICT: Record<string, [string, string]> = {
  supported: ['fine', 'supported'],
  slope_only: ['fault', 'rate only'],
  poor: ['danger', 'does not fit'],
  biased: ['danger', 'biased'],
}

interface Props {
  identified: Schemas['IdentifiedView']
  problem: string
  onAgain: () => void
}

/** The process in one sentence of pressable figures, the verdict, and the fit on demand. */
export function Process({ identified: found, problem, onAgain }: Props) {
  const { unit } = usePreferences()
  const [open, setOpen] = useState(false)
  const [gain, lag, dead, slope] = found.figures
  const [tone, word] = VERDICT[found.verdict] ?? ['fault', found.verdict]
  return (
    <section aria-label="Process">
      <p className="lead">
        Process found from {found.run_name}: gain {gain && <Fig figure={gain} />}, lag {lag && <Fig figure={lag} />}, dead time{' '}
        {dead && <Fig figure={dead} />}; at full power {slope && <Fig figure={slope} />}.
      </p>
      <div className="verdict">
        <span className={`badge ${tone}`}>{word}</span>
        <span>
          {said(found.verdict_reason, unit)}{' '}
          <button className="button quiet" aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? 'Hide the fit' : 'See the fit'}
          </button>
          <button className="button quiet" onClick={onAgain}>
            Use another run
          </button>
        </span>
      </div>
      {problem && <p className="notice bad">{said(problem, unit)}</p>}
      {open && <Fit found={found} />}
    </section>
  )
}

function Fit({ found }: { found: Schemas['IdentifiedView'] }) {
  const { unit } = usePreferences()
  const option = useMemo(() => {
    const x = (t: number) => Math.round((t / 60) * 100) / 100
    const series = (values: number[]) => found.time_s.map((t, i) => [x(t), Math.round(absolute(values[i] ?? 0, unit) * 100) / 100])
    return (ink: import('../shared/Chart').Ink) => ({
      ...axes(ink, false),
      tooltip: { show: false },
      series: [
        { type: 'line', name: 'measured', data: series(found.measured_c), showSymbol: false, lineStyle: { color: ink.ink, width: 2 } },
        {
          type: 'line',
          name: 'model',
          data: series(found.modelled_c),
          showSymbol: false,
          lineStyle: { color: ink.danger, width: 2, type: 'dashed' },
        },
      ],
    })
  }, [found, unit])
  return (
    <>
      <Chart option={option} height={230} label="Measured reading and model" />
      <p className="small dim">
        Solid: measured. Dashed: model. They differ by {say(found.residual_c, 'temperature_difference', unit)} rms over {found.points}{' '}
        points.
      </p>
    </>
  )
}
