import { useMemo } from 'react'
import type { Rig, Schemas } from '../api/client'
import { heat } from '../look/heat'
import { useWindow } from '../runs/data'
import { runOption } from '../runs/runChart'
import { Chart } from '../shared/Chart'
import { SelectField } from '../shared/fields'
import { LastingField } from '../shared/LastingField'
import { Handles, Stretch } from '../shared/Stretch'
import { problemOf } from '../shared/states'
import { day } from '../shared/when'
import { usePreferences } from '../shell/preferences'
import { useWords } from '../units/fields'

/** A stretch of a run to learn from, and what of it is left out. */
export type Chosen = Schemas['StretchInputRequest']

interface Props {
  rig: Rig
  runs: Schemas['RunView'][]
  value: Chosen
  onChange: (value: Chosen) => void
  error: unknown
  /** Where it stands in what is sent: `` or `more[0].`. */
  at: string
}

const round = (s: number) => Math.round(s / 10) * 10

export function ChosenStretch({ rig, runs, value, onChange, error, at }: Props) {
  const { label } = useWords()
  const { unit, theme } = usePreferences()
  const run = runs.find((r) => r.id === value.run)
  const { data } = useWindow(rig.slug, run)
  const option = useMemo(() => (data && run ? runOption(data, run.events, unit, heat(run.peak_c, theme)) : null), [data, run, unit, theme])
  const leftOut = value.leave_out ?? []
  const leave = (next: Schemas['LeftOutRequest'][]) => onChange({ ...value, leave_out: next })
  const stretch = {
    from: value.start_s ?? undefined,
    to: value.end_s ?? undefined,
    set: (from?: number, to?: number) => onChange({ ...value, start_s: from ?? null, end_s: to ?? null }),
  }
  const another = () => {
    const [from, to] = [stretch.from ?? data!.start_s, stretch.to ?? data!.end_s]
    leave([...leftOut, { start_s: round(from + 0.45 * (to - from)), end_s: round(from + 0.55 * (to - from)) }])
  }
  return (
    <div className="stack">
      <div style={{ maxWidth: 420 }}>
        <SelectField
          label={label('run')}
          value={String(value.run)}
          options={runs.map((r) => [String(r.id), `${r.name}, ${day(r.started_at)}`] as const)}
          problem={problemOf(error, `${at}run`)}
          onChange={(v) => onChange({ run: Number(v), start_s: null, end_s: null, leave_out: [] })}
        />
      </div>
      {option && data ? (
        <>
          <Chart option={option} height={300} label="The run to learn from" />
          <Stretch start={data.start_s} end={data.end_s} stretch={stretch} />
          {leftOut.map((part, i) => {
            const set = (next: Partial<typeof part>) => leave(leftOut.map((p, k) => (k === i ? { ...p, ...next } : p)))
            return (
              <div key={i} className="left-out">
                <div className="under-picture">
                  <Handles
                    start={data.start_s}
                    end={data.end_s}
                    value={[part.start_s, part.end_s]}
                    labels={['Start of what is left out', 'End of what is left out']}
                    out
                    onChange={(start_s, end_s) => set({ start_s, end_s })}
                  />
                </div>
                <div className="row">
                  <LastingField
                    label={label('leave_out.start_s')}
                    value={part.start_s}
                    onChange={(s) => s != null && set({ start_s: s })}
                  />
                  <LastingField
                    label={label('leave_out.end_s')}
                    value={part.end_s}
                    problem={problemOf(error, `${at}leave_out[${i}].end_s`)}
                    onChange={(s) => s != null && set({ end_s: s })}
                  />
                  <button className="button quiet" onClick={() => leave(leftOut.filter((_, k) => k !== i))}>
                    Keep it in
                  </button>
                </div>
              </div>
            )
          })}
          <div>
            <button className="button quiet" onClick={another}>
              Leave out a part: a door, a disturbance
            </button>
          </div>
        </>
      ) : (
        <p className="wait">Fetching the run…</p>
      )}
    </div>
  )
}
