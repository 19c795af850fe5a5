import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useOutletContext } from 'react-router'
import { useInAddress } from '../api/address'
import { api, need, Refusal, type Rig, type Schemas } from '../api/client'
import { useAccept, useChange } from '../api/hooks'
import { useDraft, useKept } from '../api/kept'
import { Conflict } from '../shared/Conflict'
import { Fetched } from '../shared/Fetched'
import { TextField } from '../shared/fields'
import { Findings } from '../shared/Findings'
import { Resumed } from '../shared/Resumed'
import { Said } from '../shared/Said'
import { Segments } from '../shared/Segments'
import { Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { ReasonOfPlace } from '../shell/reason'
import { say } from '../units/quantity'
import { Alarms } from './Alarms'
import { Devices } from './Devices'
import { Ladder } from './Ladder'
import { OverRun } from './OverRun'
import { isSetpointLimit, moved, type Plan, valueAt } from './plan'
import { Proof } from './Proof'
import { Stuck } from './Stuck'
import './guarding.css'

const LOOKS = [
  ['ladder', 'Ladder'],
  ['stuck', 'Switch stuck'],
  ['alarms', 'Alarms'],
  ['devices', 'Limiter, fuse'],
  ['proof', 'Proof'],
  ['run', 'Over a run'],
] as const
type Look = (typeof LOOKS)[number][0]
/** What there is to look at where nothing can be switched. */
const WATCHED: Look[] = ['ladder', 'alarms', 'proof', 'run']

/** What stops the rig, in which order, and whether it was ever made to. */
export default function Guarding() {
  const rig = useOutletContext<Rig>()
  const query = useQuery({
    queryKey: ['of', rig.slug, 'guarding', rig.revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/guarding', { params: { path: { slug: rig.slug } } })),
    placeholderData: (before) => before,
    enabled: !!rig.choice,
  })
  if (!rig.choice)
    return (
      <>
        <h1>{titleOf(rig)}</h1>
        <div className="empty">
          <p>Choose the parts first: what guards the rig follows from them.</p>
          <Link className="button" to={`/rigs/${rig.slug}/parts`}>
            Choose the parts
          </Link>
        </div>
      </>
    )
  return <Fetched query={query}>{(data) => <Station rig={rig} data={data} />}</Fetched>
}

const titleOf = (rig: Rig) => (rig.purpose.effect === 'watches' ? 'What calls, and when' : 'What stops it, and in which order')

function Station({ rig, data }: { rig: Rig; data: Schemas['GuardingView'] }) {
  const watches = rig.purpose.effect === 'watches'
  const looks = LOOKS.filter(([key]) => !watches || WATCHED.includes(key)).map(
    ([key, words]) => [key, key === 'devices' && rig.purpose.effect === 'cools' ? 'Limiter' : words] as const,
  )
  const [look, setLook] = useInAddress<Look>(
    'look',
    'ladder',
    looks.map(([key]) => key),
  )
  const draft = useDraft<Plan>(rig.slug, 'guarding', data.plan, data.revision)
  const [why, setWhy, sent] = useKept(`why guarding ${rig.slug}`, '')
  const plan = draft.values
  const [limit, setLimit] = useState<number | null>(null)
  const accept = useAccept(rig)
  const trying = draft.touched || limit !== null
  const tried = useQuery({
    queryKey: ['of', rig.slug, 'guarding preview', data.revision, plan, limit],
    queryFn: () =>
      need(
        api.POST('/api/v1/rigs/{slug}/guarding/preview', { params: { path: { slug: rig.slug } }, body: { plan, setpoint_limit_c: limit } }),
      ),
    placeholderData: (before) => before,
    enabled: trying,
    retry: false,
  })
  const save = useChange(rig.slug, () =>
    need(api.PUT('/api/v1/rigs/{slug}/guarding', { params: { path: { slug: rig.slug } }, body: { revision: draft.revision, plan, why } })),
  )
  const ladder = trying ? (tried.data ?? data.ladder) : data.ladder
  const saved = data.saved && !trying
  const limitStep = ladder.steps.find(isSetpointLimit)
  const mended = save.error instanceof Refusal && save.error.status === 400 && draft.touched && tried.isSuccess && !tried.isPlaceholderData
  const error = (trying && tried.error) || (mended ? null : save.error)
  const settle = (proposal: Schemas['Proposal']) => {
    const next = saved ? null : moved(plan, proposal.target, proposal.value)
    if (next) draft.set(next)
    return !!next
  }
  return (
    <>
      <h1>{titleOf(rig)}</h1>
      <p className="lead">
        {watches && data.saved
          ? 'Everything that has a temperature here, on one scale. A gap is wide enough when what the sensor may be off fits into it.'
          : data.saved
            ? `Everything that has a temperature on this rig, on one scale. A gap is wide enough when ${rig.purpose.effect === 'cools' ? 'running on' : 'overshoot'}, lag and both sensors’ errors fit into it.`
            : 'A proposal for this rig, not in force yet. Move its steps, look what happens, then save it.'}
      </p>
      <Resumed draft={draft} />
      <Conflict draft={draft} label={(f) => PARTS[f] ?? f} says={(_, v) => told(v)} />
      <div className="looks">
        <Segments label="Look at" value={look} options={looks} onChange={setLook} />
      </div>
      <div className="guarding">
        {look === 'ladder' && (
          <>
            <Ladder
              ladder={ladder}
              plan={plan}
              setpointLimit={limit}
              height={440}
              onMove={(step, celsius) => {
                if (isSetpointLimit(step)) return setLimit(celsius)
                const next = moved(plan, step.target, valueAt(plan, step, celsius, ladder.setpoint_c))
                if (next) draft.set(next)
              }}
            />
            {limit !== null && limitStep && (
              <SetpointLimit
                rig={rig}
                celsius={limit}
                onLeave={() => setLimit(null)}
                busy={accept.isPending}
                error={accept.error}
                onSet={() => accept.mutate({ target: limitStep.target, value: limit, label: '' }, { onSuccess: () => setLimit(null) })}
              />
            )}
            {ladder.stuck && (
              <p className="answer">
                <Said>{ladder.stuck.act}</Said>
              </p>
            )}
          </>
        )}
        {look === 'stuck' && ladder.stuck && <Stuck ladder={ladder} stuck={ladder.stuck} />}
        {look === 'alarms' && (
          <Alarms rig={rig} plan={plan} kinds={data.kinds} reasons={data.reasons} onChange={draft.set} error={error} inForce={saved} />
        )}
        {look === 'devices' && <Devices rig={rig} plan={plan} offered={data.offered} ladder={ladder} onChange={draft.set} error={error} />}
        {look === 'proof' && <Proof rig={rig} data={data} />}
        {look === 'run' && <OverRun rig={rig} plan={data.plan} />}
      </div>
      <Findings
        rig={rig}
        findings={saved ? data.findings : ladder.findings}
        settle={settle}
        fine={`Every gap is wide enough, and every ${watches ? 'alarm' : 'guard'} was made to act.`}
      />
      <div className="stack" style={{ marginTop: 14 }}>
        {(draft.touched || data.saved) && <TextField label="Why (goes into the book)" value={why} onChange={setWhy} />}
        <Refused error={error} />
        <div className="row">
          <button
            className="button main"
            disabled={save.isPending || !!draft.theirs || (data.saved && !draft.touched)}
            onClick={() =>
              save.mutate(undefined, {
                onSuccess: () => {
                  draft.discard()
                  sent(why)
                },
              })
            }
          >
            {data.saved ? 'Save the plan' : 'Put this plan in force'}
          </button>
          {draft.touched && (
            <button className="button" onClick={draft.discard}>
              Undo what was moved
            </button>
          )}
          {data.saved && (
            <button className="button quiet" onClick={() => draft.set(data.proposed)}>
              Begin again from the proposals
            </button>
          )}
        </div>
      </div>
      <ReasonOfPlace>
        {watches ? <WatchedAdvice /> : <LadderAdvice model={ladder.model} cools={rig.purpose.effect === 'cools'} />}
      </ReasonOfPlace>
    </>
  )
}

/** The set-point limit was moved: it is no part of the plan, and is set by itself. */
function SetpointLimit(props: { rig: Rig; celsius: number; busy: boolean; error: unknown; onSet: () => void; onLeave: () => void }) {
  const { unit } = usePreferences()
  const words = say(props.celsius, 'temperature', unit)
  return (
    <div className="row" role="group" aria-label="Set-point limit, moved">
      <span>Set-point limit tried at {words}; the controller still has its own.</span>
      <button className="button main" disabled={props.busy} onClick={props.onSet}>
        Set {words} under Set-up
      </button>
      <button className="button" onClick={props.onLeave}>
        Leave it
      </button>
      <Refused error={props.error} />
    </div>
  )
}

function WatchedAdvice() {
  return (
    <>
      <h2>What an alarm needs</h2>
      <p>Far enough from ordinary times that it is not ignored, and early enough that somebody can still do something.</p>
      <div className="caution">
        <strong>An alarm protects nothing by itself.</strong> Somebody must hear it, in time, and know what to do.
      </div>
    </>
  )
}

function LadderAdvice({ model, cools }: { model: string; cools: boolean }) {
  return (
    <>
      <h2>Order of the ladder</h2>
      <p>
        {cools
          ? 'Ordinary running stays above the warning, the warning above the low limiter, and what it still falls after that above what freezes.'
          : 'Ordinary running stays below the warning, the warning below the limiter, its peak below the fuse, and the fuse below what breaks.'}
      </p>
      <p>
        It rests on <Said>{model}</Said>.
      </p>
      <div className="caution">
        <strong>Software is no safety device.</strong> What must not happen is stopped by a limiter with its own sensor and its own switch
        {!cools && ' and a thermal fuse under everything that runs unattended'}. Never defeat a latch. Mains work: local code, licensed
        person.
      </div>
    </>
  )
}

const PARTS: Record<string, string> = {
  alarms: 'Alarms',
  limiter: 'Limiter',
  fuse: 'Thermal fuse',
  policy: 'A reading that is lost',
  light: 'Status light',
  maximum_c: 'Controller’s maximum',
  prove_days: 'Proved every (days)',
}

/** A part of a plan, short enough to be told apart. */
function told(value: unknown): string {
  if (value == null) return 'none'
  if (Array.isArray(value)) return (value as Plan['alarms']).map((a) => `${a.name} ${a.alarm.value}`).join(', ') || 'none'
  if (typeof value === 'object')
    return Object.values(value)
      .filter((v) => typeof v !== 'object')
      .join(' · ')
  return String(value)
}
