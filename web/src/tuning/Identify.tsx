import { useState } from 'react'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { Refused } from '../shared/states'
import { type Chosen, ChosenStretch } from './ChosenStretch'

interface Props {
  rig: Rig
  runs: Schemas['RunView'][]
  start: { run?: number; from?: number; to?: number }
  onDone: () => void
  onCancel?: () => void
}

const whole = (run: number): Chosen => ({ run, start_s: null, end_s: null, leave_out: [] })

/** Which stretches of which runs show what the heater does. */
export function Identify({ rig, runs, start, onDone, onCancel }: Props) {
  const first = start.run ?? runs[0]?.id
  const [chosen, setChosen] = useState<Chosen[]>(
    first === undefined ? [] : [{ ...whole(first), start_s: start.from ?? null, end_s: start.to ?? null }],
  )
  const identify = useChange(rig.slug, () =>
    need(
      api.POST('/api/v1/rigs/{slug}/tuning/identify', {
        params: { path: { slug: rig.slug } },
        body: { ...chosen[0]!, more: chosen.slice(1) },
      }),
    ),
  )
  const next = runs.find((r) => chosen.every((c) => c.run !== r.id)) ?? runs[0]
  return (
    <section className="stack" style={{ marginTop: 10 }} aria-label="Choose a stretch">
      <p className="lead">
        Choose a run in which the heater clearly did something: a heat-up, a step, an on/off cycle. Leave out doors and disturbances.
      </p>
      {chosen.map((value, i) => (
        <div key={i} className={i ? 'stack another-stretch' : 'stack'}>
          {i > 0 && (
            <div className="between">
              <h3>And from</h3>
              <button className="button quiet" onClick={() => setChosen(chosen.filter((_, k) => k !== i))}>
                Without it
              </button>
            </div>
          )}
          <ChosenStretch
            rig={rig}
            runs={runs}
            value={value}
            onChange={(v) => setChosen(chosen.map((c, k) => (k === i ? v : c)))}
            error={identify.error}
            at={i ? `more[${i - 1}].` : ''}
          />
        </div>
      ))}
      <Refused error={identify.error} />
      <div className="row">
        <button
          className="button main"
          disabled={!chosen.length || identify.isPending}
          onClick={() => identify.mutate(undefined, { onSuccess: onDone })}
        >
          {identify.isPending ? 'Fitting…' : 'Find the process'}
        </button>
        {next && (
          <button className="button" onClick={() => setChosen([...chosen, whole(next.id)])}>
            Learn from another stretch too
          </button>
        )}
        {onCancel && (
          <button className="button" onClick={onCancel}>
            Back to the candidates
          </button>
        )}
      </div>
    </section>
  )
}
