import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { api, need, type Quantity, type Rig, type Schemas } from '../api/client'
import { NumberField, SelectField, TextField } from '../shared/fields'
import { TakeOut } from '../shared/AlarmsNow'
import { Fetched } from '../shared/Fetched'
import { Said } from '../shared/Said'
import { problemOf } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { useShow } from '../shell/reason'
import { say } from '../units/quantity'
import { type Plan, type Planned, withAlarm, withPlanned } from './plan'
import { useWords } from '../units/fields'

const DOES = [
  ['beacon', 'beacon'],
  ['buzzer', 'buzzer'],
  ['output_off', 'output off'],
  ['contactor', 'opens the contactor'],
] as const
/** What needs nothing to switch. */
const EASY: string[] = ['beacon', 'buzzer']

interface Props {
  rig: Rig
  plan: Plan
  kinds: Schemas['AlarmKindView'][]
  reasons: Schemas['Reason'][]
  onChange: (plan: Plan) => void
  error: unknown
  /** The plan is in force as it stands here, so that its alarms have the names they are judged by. */
  inForce: boolean
}

/** The alarms of the plan: each with what it watches, what it does, and what somebody is to do then. */
export function Alarms({ rig, plan, kinds, reasons, onChange, error, inForce }: Props) {
  const judged = inForce && rig.live.status === 'online'
  const [open, setOpen] = useState<number | null>(null)
  const add = () => {
    const names = plan.alarms.map((a) => a.name)
    const name = ['New alarm', ...Array.from({ length: 12 }, (_, i) => `New alarm ${i + 2}`)].find((n) => !names.includes(n))!
    onChange({ ...plan, alarms: [...plan.alarms, { ...NEW, name }] })
    setOpen(plan.alarms.length)
  }
  return (
    <section aria-label="Alarms" className="stack">
      <ul className="alarms">
        {plan.alarms.map((planned, i) => (
          <li key={i}>
            <AlarmLine
              planned={planned}
              kinds={kinds}
              reason={reasons.find((r) => r.about === planned.name)?.says}
              open={open === i}
              onOpen={() => setOpen(open === i ? null : i)}
            />
            {open === i && (
              <AlarmForm
                rig={rig}
                plan={plan}
                index={i}
                kinds={kinds}
                error={error}
                onChange={onChange}
                judged={judged}
                onRemove={() => {
                  setOpen(null)
                  onChange({ ...plan, alarms: plan.alarms.filter((_, k) => k !== i) })
                }}
              />
            )}
          </li>
        ))}
      </ul>
      <div className="row">
        <button className="button" onClick={add} disabled={plan.alarms.length >= 12}>
          Add an alarm
        </button>
      </div>
      <p className="dim small">
        Two schools: alarms off until they are needed, since a forgotten one confuses; or at least one always wired and heard. Proposed is
        the second, and a contact that drops out to alarm, so that a lost supply tells too.
      </p>
    </section>
  )
}

const NEW: Planned = {
  name: 'New alarm',
  alarm: {
    kind: 'above_setpoint',
    value: 5,
    hysteresis: 1,
    on_delay_s: 5,
    off_delay_s: 0,
    latching: false,
    standby: 'first',
    window_s: 60,
    move_c: 1,
    gap_s: 5,
    de_energise: true,
    keeps_latch: true,
  },
  does: ['beacon'],
  cause: '',
  consequence: '',
  response: '',
}

interface LineProps {
  planned: Planned
  kinds: Props['kinds']
  reason?: string
  open: boolean
  onOpen: () => void
}

function AlarmLine({ planned, kinds, reason, open, onOpen }: LineProps) {
  const { unit } = usePreferences()
  const show = useShow()
  const { alarm } = planned
  const kind = kinds.find((k) => k.kind === alarm.kind)
  const value = kind?.quantity ? say(alarm.value, kind.quantity as Quantity, unit) : ''
  return (
    <div className="alarmline">
      <button className="title" aria-expanded={open} onClick={onOpen}>
        {planned.name}
      </button>
      <span className="what">
        {kind?.label.toLowerCase()} {value && <b className="num">{value}</b>}
        {alarm.on_delay_s > 0 && <> for {say(alarm.on_delay_s, 'time', unit)}</>}
        {alarm.latching && ', latches'}
        {alarm.standby !== 'none' && ', held until in range'}
      </span>
      <span className="does">
        {DOES.filter(([k]) => planned.does.includes(k))
          .map(([, w]) => w)
          .join(', ')}
      </span>
      <span className="response dim">
        <Said>{planned.response}</Said>
      </span>
      {reason && (
        <button className="button quiet" onClick={() => show({ note: { title: planned.name, value, text: reason } })}>
          Why
        </button>
      )}
    </div>
  )
}

interface FormProps {
  rig: Rig
  judged: boolean
  plan: Plan
  index: number
  kinds: Props['kinds']
  error: unknown
  onChange: (plan: Plan) => void
  onRemove: () => void
}

function AlarmForm({ rig, judged, plan, index, kinds, error, onChange, onRemove }: FormProps) {
  const { label, choices } = useWords()
  const planned = plan.alarms[index]!
  const { alarm } = planned
  const kind = kinds.find((k) => k.kind === alarm.kind)!
  const out = rig.live.alarms.some((a) => a.name === planned.name && a.state === 'out_of_service')
  const at = (field: string) => problemOf(error, `alarms[${index}].${field}`)
  const set = (part: Partial<typeof alarm>) => onChange(withAlarm(plan, index, part))
  const say_ = (part: Partial<Planned>) => onChange(withPlanned(plan, index, part))
  const number = (field: keyof typeof alarm, quantity: Quantity, more = '') => (
    <NumberField
      label={`${label(`alarm.${field}`)} ${more}`.trim()}
      kind={quantity}
      value={alarm[field] as number}
      onChange={(v) => v != null && set({ [field]: v })}
      problem={at(`alarm.${field}`)}
    />
  )
  return (
    <div className="alarmform">
      <div className="guardgrid">
        <TextField label={label('name')} value={planned.name} onChange={(name) => say_({ name })} problem={at('name')} />
        <SelectField
          label={label('alarm.kind')}
          value={alarm.kind}
          options={kinds.map((k) => [k.kind, k.label] as const)}
          onChange={(k) => set({ kind: k })}
          hint={kind.means}
        />
        {kind.quantity && number('value', kind.quantity as Quantity)}
        {kind.hysteresis && number('hysteresis', kind.quantity === 'temperature' ? 'temperature_difference' : (kind.quantity as Quantity))}
        {kind.window && number('window_s', 'time', kind.window)}
        {kind.move && number('move_c', 'temperature_difference', kind.move)}
        {number('on_delay_s', 'time')}
        {number('off_delay_s', 'time')}
        {number('gap_s', 'time')}
        <SelectField
          label={label('alarm.standby')}
          value={alarm.standby}
          options={choices('alarm.standby')}
          onChange={(standby) => set({ standby: standby as typeof alarm.standby })}
        />
        <SelectField
          label={label('alarm.latching')}
          value={String(alarm.latching)}
          options={choices('alarm.latching')}
          onChange={(v) => set({ latching: v === 'true' })}
        />
        <SelectField
          label={label('alarm.de_energise')}
          value={String(alarm.de_energise)}
          options={choices('alarm.de_energise')}
          onChange={(v) => set({ de_energise: v === 'true' })}
        />
      </div>
      <fieldset className="doesbox">
        <legend>It</legend>
        {DOES.filter(([key]) => rig.purpose.effect !== 'watches' || planned.does.includes(key) || EASY.includes(key)).map(
          ([key, words]) => (
            <label key={key}>
              <input
                type="checkbox"
                checked={planned.does.includes(key)}
                onChange={(e) => say_({ does: e.target.checked ? [...planned.does, key] : planned.does.filter((d) => d !== key) })}
              />{' '}
              {words}
            </label>
          ),
        )}
      </fieldset>
      <div className="guardgrid wide">
        <TextField label={label('cause')} value={planned.cause} onChange={(cause) => say_({ cause })} problem={at('cause')} />
        <TextField
          label={label('consequence')}
          value={planned.consequence}
          onChange={(consequence) => say_({ consequence })}
          problem={at('consequence')}
        />
        <TextField
          label={label('response')}
          value={planned.response}
          onChange={(response) => say_({ response })}
          problem={at('response')}
        />
      </div>
      <Table rig={rig} alarm={alarm} />
      <div className="row">
        <button className="button quiet" onClick={onRemove}>
          Remove this alarm
        </button>
        {judged && !out && <TakeOut slug={rig.slug} name={planned.name} />}
      </div>
    </div>
  )
}

/** What it becomes in every case, from the machine itself. */
function Table({ rig, alarm }: { rig: Rig; alarm: Schemas['AlarmSettings'] }) {
  const [open, setOpen] = useState(false)
  return (
    <details open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>What it does in every case</summary>
      {open && <Rows rig={rig} alarm={alarm} />}
    </details>
  )
}

function Rows({ rig, alarm }: { rig: Rig; alarm: Schemas['AlarmSettings'] }) {
  const query = useQuery({
    queryKey: ['alarm table', alarm],
    queryFn: () => need(api.POST('/api/v1/rigs/{slug}/guarding/table', { params: { path: { slug: rig.slug } }, body: { alarm } })),
    placeholderData: (before) => before,
  })
  return (
    <Fetched query={query}>
      {(data) => (
        <table className="plain small truth">
          <thead>
            <tr>
              <th>it is</th>
              <th>condition</th>
              <th>its delay</th>
              <th>a person</th>
              <th>it becomes</th>
              <th>it acts</th>
              <th>its relay</th>
            </tr>
          </thead>
          <tbody>
            {data.rows.map((r, i) => (
              <tr key={i}>
                <td>{i && data.rows[i - 1]!.state === r.state ? '' : data.says[r.state]}</td>
                <td>{r.condition ? 'met' : 'not met'}</td>
                <td>{r.delay_over == null ? '' : r.delay_over ? 'over' : 'running'}</td>
                <td>{r.person}</td>
                <td>{data.says[r.becomes]}</td>
                <td>{r.acts ? 'yes' : ''}</td>
                <td>{r.energised ? 'pulled in' : 'dropped'}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </Fetched>
  )
}
