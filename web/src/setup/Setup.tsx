import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useOutletContext } from 'react-router'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange, useDraft } from '../api/hooks'
import { TextField } from '../shared/fields'
import { Findings } from '../shared/Findings'
import { Loading, Overtaken, Refused } from '../shared/states'
import { type Mark, TemperatureScale } from '../shared/TemperatureScale'
import { ReasonOfPlace } from '../shell/reason'
import { History } from './History'
import { ParameterTable, type Values } from './ParameterTable'
import './setup.css'

/** What the controller should hold for this rig, what it does hold, and what that means. */
export default function Setup() {
  const rig = useOutletContext<Rig>()
  const { data, error } = useQuery({
    queryKey: ['of', rig.slug, 'setup', rig.revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/setup', { params: { path: { slug: rig.slug } } })),
    placeholderData: (before) => before,
    retry: false,
  })
  if (error)
    return (
      <>
        <h1>What should the controller be set to?</h1>
        <Refused error={error} />
        <p>
          <Link className="button" to={`/rigs/${rig.slug}/parts`}>
            Choose the parts
          </Link>
        </p>
      </>
    )
  if (!data) return <Loading />
  return <Sheet rig={rig} data={data} />
}

function Sheet({ rig, data }: { rig: Rig; data: Schemas['SetupView'] }) {
  const stored = Object.fromEntries(data.parameters.map((p) => [p.name, p.value ?? p.proposed])) as Values
  const [edits, setEdits] = useState<Values>({})
  const values: Values = { ...stored, ...edits }
  const [why, setWhy] = useState('')
  const draft = useDraft(rig)
  const edit = (part: Values) => {
    draft.begin()
    setEdits((e) => ({ ...e, ...part }))
  }
  const save = useChange(rig.slug, async (kind: 'as_found' | 'as_left') => {
    draft.end()
    return need(api.PUT('/api/v1/rigs/{slug}/setup', { params: { path: { slug: rig.slug } }, body: { revision: draft.revision, values, kind, why } }))
  })
  const changed = data.parameters.filter((p) => values[p.name] !== (p.value ?? p.proposed))
  const incomplete = data.parameters.some((p) => values[p.name] == null)

  return (
    <>
      <h1>What should the controller be set to?</h1>
      <p className="lead">{data.saved ? 'The middle column is what this rig needs; press it for the reason. The right one is what the controller holds.' : 'Nothing is recorded yet. Start from the proposals, or enter what you find in the controller.'}</p>
      {draft.overtaken && <Overtaken />}
      <div style={{ margin: '10px 0' }}>
        <Findings rig={rig} findings={data.findings} fine={data.saved ? 'The values suit this rig.' : 'Save the sheet once and it is checked against the rig.'} />
      </div>
      <div className="setup">
        <TemperatureScale label="Where the settings lie" marks={marksOf(rig, values)} window={windowOf(values)} height={440} />
        <div>
          <ParameterTable parameters={data.parameters} values={values} onChange={(name, value) => edit({ [name]: value })} error={save.error} />
        </div>
      </div>
      <div className="stack" style={{ marginTop: 14 }}>
        <TextField label="Why (goes into the book)" value={why} onChange={setWhy} />
        <Refused error={save.error} />
        <div className="row">
          <button className="button main" disabled={save.isPending || incomplete || (data.saved && !changed.length)} onClick={() => save.mutate('as_left', { onSuccess: () => setEdits({}) })}>
            Save as left{changed.length ? ` (${changed.length} changed)` : ''}
          </button>
          <button className="button" disabled={save.isPending || incomplete} onClick={() => save.mutate('as_found', { onSuccess: () => setEdits({}) })}>
            Save as found
          </button>
          <button className="button quiet" onClick={() => edit(Object.fromEntries(data.parameters.map((p) => [p.name, p.proposed])) as Values)}>
            Take all proposals
          </button>
        </div>
        <History history={data.history} parameters={data.parameters} />
      </div>
      <ReasonOfPlace>
        <h2>Order of work</h2>
        <p>Unit first: many controllers keep the digits of everything else when it changes. Limits and alarms next, tuning after.</p>
        <p>As found: what was in it before you touched it. As left: what you leave it with.</p>
        <div className="caution">
          <strong>Going into set-up may stop the outputs,</strong> or leave them as they are: know which. Never tune with product in the machine.
        </div>
      </ReasonOfPlace>
    </>
  )
}

const number = (value: unknown) => (typeof value === 'number' ? value : null)

function windowOf(values: Values): [number, number] | undefined {
  const [low, high] = [number(values.setpoint_low_c), number(values.setpoint_high_c)]
  return low != null && high != null && high > low ? [low, high] : undefined
}

function marksOf(rig: Rig, values: Values): Mark[] {
  const marks: Mark[] = [{ celsius: rig.purpose.highest_c, name: 'highest allowed', says: rig.purpose.highest_reason, tone: 'danger' }]
  const add = (name: string, value: unknown, tone?: Mark['tone'], says?: string) => {
    const celsius = number(value)
    if (celsius != null) marks.push({ celsius, name, tone, says })
  }
  const setpoint = number(values.setpoint_c)
  add('set-point', values.setpoint_c, 'fine')
  add('high limit', values.setpoint_high_c)
  add('low limit', values.setpoint_low_c, 'dim')
  if (setpoint != null && values.mode === 'on_off' && number(values.hysteresis_c)) {
    const half = values.hysteresis_school === 'centred' ? number(values.hysteresis_c)! / 2 : number(values.hysteresis_c)!
    add('heat on again', setpoint - half)
  }
  return marks
}
