import { useQuery } from '@tanstack/react-query'
import { Link, useOutletContext } from 'react-router'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useInAddress } from '../api/address'
import { useChange } from '../api/hooks'
import { useDraft, useKept } from '../api/kept'
import { Conflict } from '../shared/Conflict'
import { Fetched } from '../shared/Fetched'
import { TextField } from '../shared/fields'
import { Findings } from '../shared/Findings'
import { Segments } from '../shared/Segments'
import { Refused } from '../shared/states'
import { type Mark, TemperatureScale } from '../shared/TemperatureScale'
import { wordsOf as effectWords } from '../shared/effect'
import { Resumed } from '../shared/Resumed'
import { usePreferences } from '../shell/preferences'
import { ReasonOfPlace } from '../shell/reason'
import { Keys } from '../menus/Keys'
import { LookUp } from '../menus/LookUp'
import { OnPages } from '../menus/OnPages'
import { TextController } from '../menus/TextBlock'
import { History } from './History'
import { Linked } from './Linked'
import { ParameterTable, type Values, wordsOf } from './ParameterTable'
import './setup.css'

const LOOKS = [
  ['values', 'Values'],
  ['keys', 'Keys'],
  ['text', 'Source text'],
  ['display', 'Where am I?'],
] as const
type Look = (typeof LOOKS)[number][0]

/** What the controller should hold for this rig, what it does hold, and what that means. */
export default function Setup() {
  const rig = useOutletContext<Rig>()
  const query = useQuery({
    queryKey: ['of', rig.slug, 'setup', rig.revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/setup', { params: { path: { slug: rig.slug } } })),
    placeholderData: (before) => before,
    enabled: !!rig.choice,
  })
  if (!rig.choice)
    return (
      <>
        <h1>What should the controller be set to?</h1>
        <div className="empty">
          <p>Choose the parts first: the values follow from them.</p>
          <Link className="button" to={`/rigs/${rig.slug}/parts`}>
            Choose the parts
          </Link>
        </div>
      </>
    )
  return <Fetched query={query}>{(data) => <Sheet rig={rig} data={data} />}</Fetched>
}

function Sheet({ rig, data }: { rig: Rig; data: Schemas['SetupView'] }) {
  const { unit } = usePreferences()
  const [look, setLook] = useInAddress<Look>(
    'look',
    'values',
    LOOKS.map(([key]) => key),
  )
  const stored = Object.fromEntries(data.parameters.map((p) => [p.name, p.value ?? p.proposed])) as Values
  const draft = useDraft(rig.slug, 'setup', stored, data.revision)
  const values = draft.values
  const [why, setWhy, sent] = useKept(`why ${rig.slug}`, '')
  const save = useChange(rig.slug, (kind: 'as_found' | 'as_left') =>
    need(
      api.PUT('/api/v1/rigs/{slug}/setup', { params: { path: { slug: rig.slug } }, body: { revision: draft.revision, values, kind, why } }),
    ),
  )
  const saved = () => {
    draft.discard()
    sent(why)
  }
  const tried = useQuery({
    queryKey: ['of', rig.slug, 'setup', 'try', data.revision, values],
    queryFn: () =>
      need(
        api.POST('/api/v1/rigs/{slug}/setup/try', {
          params: { path: { slug: rig.slug } },
          body: { values: Object.fromEntries(Object.entries(values).filter(([, v]) => v !== null)) },
        }),
      ),
    placeholderData: (before) => before,
    enabled: draft.touched && look === 'values',
    retry: false,
  })
  const findings = (draft.touched && tried.data?.findings) || data.findings
  const named = (name: string) => data.parameters.find((p) => p.name === name)
  const changed = data.parameters.filter((p) => values[p.name] !== (p.value ?? p.proposed))
  const incomplete = data.parameters.some((p) => values[p.name] == null)

  return (
    <>
      <h1>What should the controller be set to?</h1>
      {look === 'values' && (
        <p className="lead">
          {data.saved
            ? 'The middle column is what this rig needs; press it for the reason. The right one is what the controller holds.'
            : 'Nothing is recorded yet. Start from the proposals, or enter what you find in the controller.'}
        </p>
      )}
      <div className="looks" style={{ margin: '10px 0 12px' }}>
        <Segments label="Look at" value={look} options={LOOKS} onChange={setLook} />
      </div>
      <Resumed draft={draft} />
      <Conflict draft={draft} label={(f) => named(f)?.title ?? f} says={(f, v) => wordsOf(named(f), v, unit)} />
      {look === 'keys' && (
        <Keys
          rig={rig}
          typed={draft.touched}
          wish={draft.touched ? values : (Object.fromEntries(data.parameters.map((p) => [p.name, p.proposed])) as Values)}
        />
      )}
      {look === 'display' && <LookUp rig={rig} />}
      {look === 'text' && (
        <TextController
          rig={rig}
          wish={draft.touched ? values : (Object.fromEntries(data.parameters.map((p) => [p.name, p.proposed])) as Values)}
          parameters={data.parameters}
          onFound={(found) => {
            draft.set(found)
            setLook('values')
          }}
        />
      )}
      {look !== 'values' ? null : (
        <>
          <div style={{ margin: '10px 0' }}>
            <Findings
              rig={rig}
              findings={findings}
              fine={data.saved || draft.touched ? 'The values suit this rig.' : 'Save the sheet once and it is checked against the rig.'}
              settle={
                draft.touched
                  ? (proposal) => {
                      draft.set({ [proposal.target.replace('setup.', '')]: proposal.value as string | number })
                      return true
                    }
                  : undefined
              }
            />
            {draft.touched && <p className="small dim">Found about the values as they stand below; nothing is saved yet.</p>}
          </div>
          <Linked rig={rig} parameters={data.parameters} onTake={(values) => draft.set(values)} />
          <div className="setup">
            <TemperatureScale label="Where the settings lie" marks={marksOf(rig, values)} window={windowOf(values)} height={440} />
            <div>
              <ParameterTable
                parameters={data.parameters}
                values={values}
                onChange={(name, value) => draft.set({ [name]: value })}
                error={save.error}
              />
              <OnPages rig={rig} values={values} onChange={(changed) => draft.set(changed)} />
            </div>
          </div>
          <div className="stack" style={{ marginTop: 14 }}>
            <TextField label="Why (goes into the book)" value={why} onChange={setWhy} />
            <Refused error={save.error} />
            <div className="row">
              <button
                className="button main"
                disabled={save.isPending || incomplete || !!draft.theirs || (data.saved && !changed.length)}
                onClick={() => save.mutate('as_left', { onSuccess: saved })}
              >
                Save as left{changed.length ? ` (${changed.length} changed)` : ''}
              </button>
              <button
                className="button"
                disabled={save.isPending || incomplete || !!draft.theirs}
                onClick={() => save.mutate('as_found', { onSuccess: saved })}
              >
                Save as found
              </button>
              <button
                className="button quiet"
                onClick={() => draft.set(Object.fromEntries(data.parameters.map((p) => [p.name, p.proposed])) as Values)}
              >
                Take all proposals
              </button>
            </div>
            <History
              history={data.history}
              parameters={data.parameters}
              onBack={(back) => {
                draft.set(back)
                setLook('keys')
              }}
            />
          </div>
        </>
      )}
      <ReasonOfPlace>
        <h2>Order of work</h2>
        <p>Unit first: many controllers keep the digits of everything else when it changes. Limits and alarms next, tuning after.</p>
        <p>As found: what was in it before you touched it. As left: what you leave it with.</p>
        <div className="caution">
          <strong>Going into set-up may stop the outputs,</strong> or leave them as they are: know which. Never tune with product in the
          machine.
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
  const p = rig.purpose
  const cools = p.effect === 'cools'
  const marks: Mark[] = [
    cools && p.lowest_c != null
      ? { celsius: p.lowest_c, name: 'lowest allowed', says: p.lowest_reason, tone: 'danger' }
      : { celsius: p.highest_c, name: 'highest allowed', says: p.highest_reason, tone: 'danger' },
  ]
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
    add(`${effectWords(p.effect).effect} on again`, cools ? setpoint + half : setpoint - half)
  }
  const above = number(values.cool_above_c)
  if (setpoint != null && above != null) add('cooler on', setpoint + above, 'dim')
  return marks
}
