import { useState } from 'react'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { useKept } from '../api/kept'
import { NumberField, TextField } from '../shared/fields'
import { Fig } from '../shared/Fig'
import { Said } from '../shared/Said'
import { problemOf, Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { said } from '../units/message'
import { Halves } from './Halves'
import { Taken } from './Taken'
import { useWords } from '../units/fields'

type Seen = Schemas['SeenAtStepRequest']
const NOTHING: Seen = {}

interface Props {
  rig: Rig
  stage: Schemas['ProvingStageView']
  step: Schemas['ProvingStepView']
  room: number
  onDone: () => void
}

/** The one step that is done now, large enough for one gloved hand. */
export function StepInHand({ rig, stage, step, room, onDone }: Props) {
  const { label } = useWords()
  const { unit } = usePreferences()
  const [seen, setSeen, sent] = useKept<Seen>(`step ${rig.slug} ${step.key}`, NOTHING)
  const [why, setWhy] = useState('')
  const [again, setAgain] = useState(false)
  const set = (part: Partial<Seen>) => setSeen({ ...seen, ...part })
  const record = useChange(rig.slug, (given: Seen) =>
    need(
      api.POST('/api/v1/rigs/{slug}/proving/steps', {
        params: { path: { slug: rig.slug } },
        body: { revision: rig.revision, room_c: room, key: step.key, seen: given, again, why },
      }),
    ),
  )
  const keep = (given: Seen) => record.mutate(given, { onSuccess: () => (sent(seen), onDone()) })
  const standing = (step.state === 'passed' || step.state === 'skipped') && !again
  const error = record.variables?.value === seen.value ? record.error : undefined
  const inAnotherUnit = problemOf(error, 'sure')
  const asked = inAnotherUnit ?? problemOf(error, 'value')
  const m = step.measure
  const words = said([step.does, m ? m.accepts : '', step.must].filter(Boolean).join(' '), unit)
  return (
    <form
      className="inhand stack"
      aria-label="Step in hand"
      onSubmit={(e) => {
        e.preventDefault()
        keep({ ...seen, as_told: true })
      }}
    >
      <div className="row">
        <h3>{step.title}</h3>
        {'speechSynthesis' in window && (
          <button type="button" className="button" onClick={() => speak(words)}>
            Say it
          </button>
        )}
      </div>
      {step.isolated && (
        <p className="isolated">
          <Said>{step.isolated}</Said>
        </p>
      )}
      {step.dangers.map((d) => (
        <p key={d} className="caution">
          <strong>Danger:</strong> <Said>{d}</Said>
        </p>
      ))}
      {step.caution && (
        <p className="caution">
          <Said>{step.caution}</Said>
        </p>
      )}
      <p className="does">
        <Said>{step.does}</Said>
      </p>
      <p className="must">
        {m && (
          <>
            <b className="num">
              <Said>{m.accepts}</Said>
            </b>{' '}
            <span className="dim">
              worked out as <Fig figure={m.figure} />.
            </span>{' '}
          </>
        )}
        {(!m || step.elsewhere || standing) && <Said>{step.must}</Said>}
      </p>
      {step.constant && <p className="small dim">{step.constant}</p>}
      {step.help && (
        <details>
          <summary>With the meter</summary>
          <p>
            <Said>{step.help}</Said>
          </p>
        </details>
      )}
      {step.state === 'void' && <p className="notice">It was proved, and must be again. Changed since: {step.changed.join(', ')}.</p>}
      {step.state === 'failed' && step.halves && <Halves rig={rig} step={step} />}
      {step.elsewhere ? (
        <p>
          <a className="button main" href={`/rigs/${rig.slug}/${step.elsewhere}?look=proof`}>
            Go there
          </a>{' '}
          It is kept there, and counts here while it holds.
        </p>
      ) : standing ? (
        <div className="row">
          <button type="button" className="button" onClick={() => setAgain(true)}>
            Measure it again
          </button>
        </div>
      ) : (
        <>
          {stage.before.length > 0 && (
            <div className="notice">
              <p>
                It is not its turn: <Said>{stage.before.join(' ')}</Said>
              </p>
              <TextField
                label="Why it goes first"
                value={why}
                onChange={setWhy}
                hint="it stays on the sheet"
                problem={problemOf(record.error, 'why')}
              />
            </div>
          )}
          {m && (
            <div className="measured">
              <NumberField
                label={m.divided ? 'Volts' : 'Measured'}
                kind={m.divided ? 'voltage' : m.figure.kind}
                value={seen.value ?? null}
                onChange={(value) => set({ value, sure: false, beyond: false })}
                problem={asked}
              />
              {m.divided && (
                <NumberField
                  label={label('divided_by')}
                  kind="current"
                  value={seen.divided_by ?? null}
                  onChange={(divided_by) => set({ divided_by })}
                  problem={problemOf(record.error, 'divided_by')}
                />
              )}
              {m.figure.kind === 'resistance' && !m.divided && (
                <label className="beyond">
                  <input type="checkbox" checked={!!seen.beyond} onChange={(e) => set({ beyond: e.target.checked, value: null })} />
                  beyond its range (OL)
                </label>
              )}
              {m.take && <Taken rig={rig} step={step} room={room} onTake={(value, remark) => set({ value, remark })} />}
            </div>
          )}
          {m && (
            <p className="otherwise">
              And otherwise? <Said>{step.must}</Said>
            </p>
          )}
          <TextField label="Remark" value={seen.remark ?? ''} onChange={(remark) => set({ remark })} />
          {!asked && <Refused error={record.error} />}
          <div className="row">
            {inAnotherUnit ? (
              <button type="button" className="button main" onClick={() => keep({ ...seen, as_told: true, sure: true })}>
                It was read so: keep it
              </button>
            ) : (
              <button className="button main" disabled={record.isPending}>
                It was so, next
              </button>
            )}
            <button type="button" className="button" disabled={record.isPending} onClick={() => keep({ ...seen, as_told: false })}>
              It was not so
            </button>
            <LeaveOut onLeave={(skipped) => keep({ skipped, remark: seen.remark })} error={record.error} />
          </div>
        </>
      )}
    </form>
  )
}

function LeaveOut({ onLeave, error }: { onLeave: (why: string) => void; error: unknown }) {
  const { label } = useWords()
  const [why, setWhy] = useState('')
  return (
    <details>
      <summary>Leave it out</summary>
      <TextField label={label('skipped')} value={why} onChange={setWhy} problem={problemOf(error, 'skipped')} />
      <button type="button" className="button" disabled={!why.trim()} onClick={() => onLeave(why)}>
        Left out
      </button>
    </details>
  )
}

function speak(words: string) {
  window.speechSynthesis.cancel()
  window.speechSynthesis.speak(new SpeechSynthesisUtterance(words))
}
