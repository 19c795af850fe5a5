import { useMemo, useState } from 'react'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { heat } from '../look/heat'
import { useWindow } from '../runs/data'
import { runOption } from '../runs/runChart'
import { Chart } from '../shared/Chart'
import { SelectField } from '../shared/fields'
import { Handles, Stretch, useStretch } from '../shared/Stretch'
import { LastingField } from '../shared/LastingField'
import { problemOf, Refused } from '../shared/states'
import { day } from '../shared/when'
import { usePreferences } from '../shell/preferences'

interface Props {
  rig: Rig
  runs: Schemas['RunView'][]
  start: { run?: number; from?: number; to?: number }
  onDone: () => void
  onCancel?: () => void
}

/** Which stretch of which run shows what the heater does. */
export function Identify({ rig, runs, start, onDone, onCancel }: Props) {
  const { unit, theme } = usePreferences()
  const [id, setId] = useState(start.run ?? runs[0]?.id)
  const run = runs.find((r) => r.id === id)
  const stretch = useStretch(start.from, start.to)
  const [leftOut, setLeftOut] = useState<Schemas['LeftOutRequest'][]>([])
  const window = useWindow(rig.slug, run)
  const option = useMemo(
    () => (window.data && run ? runOption(window.data, run.events, unit, heat(run.peak_c, theme)) : null),
    [window.data, run, unit, theme],
  )
  const identify = useChange(rig.slug, () =>
    need(
      api.POST('/api/v1/rigs/{slug}/tuning/identify', {
        params: { path: { slug: rig.slug } },
        body: { run: id!, start_s: stretch.from ?? null, end_s: stretch.to ?? null, leave_out: leftOut },
      }),
    ),
  )
  return (
    <section className="stack" style={{ marginTop: 10 }} aria-label="Choose a stretch">
      <p className="lead">
        Choose a run in which the heater clearly did something: a heat-up, a step, an on/off cycle. Leave out doors and disturbances.
      </p>
      <div style={{ maxWidth: 420 }}>
        <SelectField
          label="Run"
          value={String(id)}
          options={runs.map((r) => [String(r.id), `${r.name}, ${day(r.started_at)}`] as const)}
          onChange={(v) => {
            setId(Number(v))
            stretch.set()
            setLeftOut([])
          }}
        />
      </div>
      {option && window.data ? (
        <>
          <Chart option={option} height={300} label="The run to learn from" />
          <Stretch start={window.data.start_s} end={window.data.end_s} stretch={stretch} />
          {leftOut.map((part, i) => {
            const set = (next: Partial<typeof part>) => setLeftOut(leftOut.map((p, k) => (k === i ? { ...p, ...next } : p)))
            return (
              <div key={i} className="left-out">
                <div className="under-picture">
                  <Handles
                    start={window.data!.start_s}
                    end={window.data!.end_s}
                    value={[part.start_s, part.end_s]}
                    labels={['Start of what is left out', 'End of what is left out']}
                    out
                    onChange={(start_s, end_s) => set({ start_s, end_s })}
                  />
                </div>
                <div className="row">
                  <LastingField label="Leave out from" value={part.start_s} onChange={(s) => s != null && set({ start_s: s })} />
                  <LastingField
                    label="to"
                    value={part.end_s}
                    problem={problemOf(identify.error, `leave_out[${i}].end_s`)}
                    onChange={(s) => s != null && set({ end_s: s })}
                  />
                  <button className="button quiet" onClick={() => setLeftOut(leftOut.filter((_, k) => k !== i))}>
                    Keep it in
                  </button>
                </div>
              </div>
            )
          })}
          <div>
            <button
              className="button quiet"
              onClick={() => {
                const [from, to] = [stretch.from ?? window.data!.start_s, stretch.to ?? window.data!.end_s]
                const round = (s: number) => Math.round(s / 10) * 10
                setLeftOut([...leftOut, { start_s: round(from + 0.45 * (to - from)), end_s: round(from + 0.55 * (to - from)) }])
              }}
            >
              Leave out a part: a door, a disturbance
            </button>
          </div>
        </>
      ) : (
        <p className="wait">Fetching the run…</p>
      )}
      <Refused error={identify.error} />
      <div className="row">
        <button
          className="button main"
          disabled={!run || identify.isPending}
          onClick={() => identify.mutate(undefined, { onSuccess: onDone })}
        >
          {identify.isPending ? 'Fitting…' : 'Find the process'}
        </button>
        {onCancel && (
          <button className="button" onClick={onCancel}>
            Back to the candidates
          </button>
        )}
      </div>
    </section>
  )
}
