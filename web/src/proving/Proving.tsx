import { useQuery } from '@tanstack/react-query'
import { Link, useOutletContext } from 'react-router'
import { useInAddress } from '../api/address'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useKept } from '../api/kept'
import { Fetched } from '../shared/Fetched'
import { NumberField } from '../shared/fields'
import { Said } from '../shared/Said'
import { day, when } from '../shared/when'
import { usePreferences } from '../shell/preferences'
import { ReasonOfPlace } from '../shell/reason'
import { Sign } from './Sign'
import { Staircase } from './Staircase'
import { StepInHand } from './StepInHand'
import { STATE_WORDS } from './words'
import { useWords } from '../units/fields'
import './proving.css'

type View = Schemas['ProvingView']

/** First power-up, step by step, made from this very rig; and what still holds of it. */
export default function Proving() {
  const rig = useOutletContext<Rig>()
  const [room, setRoom] = useKept<number | null>(`room ${rig.slug}`, rig.purpose.ambient_c)
  const query = useQuery({
    queryKey: ['of', rig.slug, 'proving', rig.revision, room],
    queryFn: () =>
      need(
        api.GET('/api/v1/rigs/{slug}/proving', {
          params: { path: { slug: rig.slug }, query: room == null ? {} : { room_c: room } },
        }),
      ),
    placeholderData: (before) => before,
    retry: false,
  })
  return (
    <>
      <h1>Proved before it is trusted</h1>
      <Fetched query={query}>
        {(data) =>
          data.stages.length ? (
            // what is shown may be newer than the rig, or older: a press goes by the newer of both
            <Stages rig={{ ...rig, revision: Math.max(rig.revision, data.revision) }} data={data} room={room} setRoom={setRoom} />
          ) : (
            <div className="empty">
              <p>Lay out the wiring first: what must be measured, and how much it must be, follows from it.</p>
              <Link className="button" to={`/rigs/${rig.slug}/wiring`}>
                Lay out the wiring
              </Link>
            </div>
          )
        }
      </Fetched>
    </>
  )
}

function Stages({ rig, data, room, setRoom }: { rig: Rig; data: View; room: number | null; setRoom: (v: number | null) => void }) {
  const { unit } = usePreferences()
  const { label } = useWords()
  const first = data.next ?? { stage: data.stages[0]!.number, key: data.stages[0]!.steps[0]?.key ?? '' }
  const [at, setAt] = useInAddress<string>('step', '')
  const found = data.stages.find((s) => s.steps.some((x) => x.key === at))
  const chosenStage = /^stage \d$/.test(at) ? data.stages.find((s) => `stage ${s.number}` === at) : undefined
  const stage = found ?? chosenStage ?? data.stages.find((s) => s.number === first.stage) ?? data.stages[0]!
  const key = found ? at : chosenStage ? (stage.steps.find((s) => s.state !== 'passed')?.key ?? stage.steps[0]?.key) : first.key
  const step = stage.steps.find((s) => s.key === key)
  return (
    <>
      <div className="provinghead">
        <NumberField label={label('room_c')} kind="temperature" value={room} onChange={(v) => setRoom(v)} />
        <span className="row">
          <a className="button" href={paper(rig.slug, data.room_c, unit, true)} download>
            On paper, blank
          </a>
          <a className="button" href={paper(rig.slug, data.room_c, unit, false)} download>
            As it stands
          </a>
          {data.due && (
            <span>
              Due again {day(data.due)}, <a href="/api/v1/proving.ics">into a calendar</a>
            </span>
          )}
        </span>
      </div>
      <ReasonOfPlace>
        <p>
          Every number here follows from this rig: its list of wires, its parts, its settings, its limits. Press a dotted figure to see how
          it was found.
        </p>
        <p>
          A step hangs on just what it measured: change a wire, a part or a setting, and the steps that went through it must be proved
          again, no others.
        </p>
        <p>The lower the stair, the less can happen: what is found dead and unplugged hurts nobody.</p>
      </ReasonOfPlace>
      <Staircase stages={data.stages} at={stage.number} onPick={(n) => setAt(`stage ${n}`)} />
      <section className="provingstage" aria-label={`Stage ${stage.number}`}>
        <h2>
          {stage.number} · {stage.title}
        </h2>
        <p className="caution">
          <Said>{stage.waits || stage.warns}</Said>
        </p>
        {step && (
          <StepInHand
            key={`${step.key} ${step.record?.at ?? ''}`}
            rig={rig}
            stage={stage}
            step={step}
            room={data.room_c}
            onDone={() => setAt('')}
          />
        )}
        <ol className="provingsteps" aria-label="Steps of this stage">
          {stage.steps.map((s) => (
            <li key={s.key} data-state={s.state}>
              <button className="title" aria-current={s.key === key ? 'step' : undefined} onClick={() => setAt(s.key)}>
                <span className="mark" aria-hidden />
                <span>{s.title}</span>
                <span className="range num">{s.measure && <Said>{s.measure.accepts}</Said>}</span>
                <span className={`verdict ${s.state}`}>{STATE_WORDS[s.state]}</span>
              </button>
              {s.state === 'void' && <p className="small voided">Changed since: {s.changed.join(', ')}.</p>}
              {s.record && (
                <p className="small dim">
                  {when(s.record.at)}, {s.record.who}: <Said>{s.record.says}</Said> {s.record.remark}
                  {s.record.why && ` Before its turn, because: ${s.record.why}.`}
                </p>
              )}
            </li>
          ))}
        </ol>
        <Sign key={`${stage.number} ${stage.signed?.at ?? ''}`} rig={rig} stage={stage} />
      </section>
    </>
  )
}

const paper = (slug: string, room: number, unit: string, blank: boolean) =>
  `/api/v1/rigs/${slug}/proving.pdf?${new URLSearchParams({ room_c: String(room), unit, blank: String(blank) })}`
