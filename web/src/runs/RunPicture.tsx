import { useMemo } from 'react'
import { Link } from 'react-router'
import type { Rig, Schemas } from '../api/client'
import { heat } from '../look/heat'
import { Chart } from '../shared/Chart'
import { Figures } from '../shared/Fig'
import { Findings } from '../shared/Findings'
import { Stretch, useStretch } from '../shared/Stretch'
import { Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { said } from '../units/message'
import { useMetrics, useWindow } from './data'
import { BesideKeys, useBeside } from './Beside'
import { NoteForm } from './NoteForm'
import { runOption } from './runChart'

/** A run drawn and judged; the stretch chosen below the picture is what is judged. */
export default function RunPicture({ rig, run }: { rig: Rig; run: Schemas['RunView'] }) {
  const { unit, theme } = usePreferences()
  const recording = run.status === 'recording'
  const watches = rig.purpose.effect !== 'heats'
  const stretch = useStretch()
  const window = useWindow(rig.slug, run)
  const metrics = useMetrics(rig.slug, run, stretch.from, stretch.to)
  const tint = heat(Math.max(run.peak_c ?? 0, 0), theme)
  const beside = useBeside(rig, run)
  const { drawn, strip } = beside
  const option = useMemo(
    () => (window.data ? runOption(window.data, run.events, unit, tint, drawn, strip) : null),
    [window.data, run.events, unit, tint, drawn, strip],
  )
  if (!option || !window.data) return <p className="wait">Fetching the run…</p>
  if (!window.data.time_s.length)
    return <p className="wait">{recording ? 'Waiting for the first sample…' : 'This run holds no samples.'}</p>
  return (
    <section aria-label={run.name}>
      <h2>{run.name}</h2>
      <Chart
        option={option}
        height={330}
        label={`${run.name}: reading, set-point, ${beside.strip?.name ?? 'output'}${beside.drawn.map((b) => `, ${b.name}`).join('')} over time`}
      />
      <BesideKeys beside={beside} />
      <Stretch start={window.data.start_s} end={window.data.end_s} stretch={stretch} />
      <div className="row" style={{ alignItems: 'flex-start', gap: 28 }}>
        <div style={{ flex: '1 1 380px', maxWidth: 480 }}>
          <Refused error={metrics.error} />
          {metrics.data && (
            <>
              {!watches && <p>{said(metrics.data.controlled, unit)}</p>}
              {metrics.data.findings.length > 0 && <Findings rig={rig} findings={metrics.data.findings} fine="" />}
              <Figures figures={metrics.data.figures} />
            </>
          )}
          {!watches &&
            metrics.data?.missing.map((m) => (
              <p key={m} className="dim">
                {said(m, unit)}
              </p>
            ))}
        </div>
        <div className="stack" style={{ flex: '1 1 220px' }}>
          {!recording && !watches && run.samples > 20 && (
            <div>
              <Link
                className="button"
                to={`/rigs/${rig.slug}/tuning?run=${run.id}${stretch.from !== undefined ? `&from=${stretch.from}&to=${stretch.to}` : ''}`}
              >
                Find the process from this
              </Link>
            </div>
          )}
          <NoteForm slug={rig.slug} run={run.id} />
          {run.events.length > 0 && (
            <ul className="small dim" style={{ margin: 0, paddingLeft: 18 }}>
              {run.events.slice(-8).map((e) => (
                <li key={`${e.time_s}${e.text}`}>
                  <span className="num">{Math.round(e.time_s / 60)} min</span> {said(e.text, unit)}
                </li>
              ))}
            </ul>
          )}
        </div>
      </div>
    </section>
  )
}
