import { useState } from 'react'
import { api, need, type Quantity, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { useKept } from '../api/kept'
import { Said } from '../shared/Said'
import { NumberField, SelectField, TextField } from '../shared/fields'
import { problemOf, Refused } from '../shared/states'
import { NEW_PLACE, PlaceFields, placeOf, sent } from './PlaceFields'
import { useDevices, type Channel, type Device } from './data'
import { useWords } from '../units/fields'

type Draft = Schemas['InstrumentInputRequest']

/** Everything that measures at the rig, and what each value is. */
export function Devices({ rig }: { rig: Rig }) {
  const devices = useDevices(rig.slug)
  const [editing, setEditing] = useState<number | 'new' | null>(null)
  const there = devices.data?.devices ?? []
  if (!there.length) return null
  const others = there.filter((d) => d.instrument != null).length
  return (
    <details className="devices">
      <summary>{others ? `What measures here: the controller and ${others} more` : 'What else measures here?'}</summary>
      {there.map((d) =>
        editing === d.instrument && d.instrument != null ? (
          <InstrumentForm key={d.name} rig={rig} number={d.instrument} onDone={() => setEditing(null)} />
        ) : (
          <DeviceRow key={d.name} rig={rig} device={d} roles={devices.data!.roles} onEdit={() => setEditing(d.instrument ?? null)} />
        ),
      )}
      {editing === 'new' ? (
        <InstrumentForm rig={rig} number={null} onDone={() => setEditing(null)} />
      ) : (
        <button className="button" onClick={() => setEditing('new')}>
          Add an instrument
        </button>
      )}
    </details>
  )
}

interface RowProps {
  rig: Rig
  device: Device
  roles: Schemas['RoleView'][]
  onEdit: () => void
}

function DeviceRow({ rig, device, roles, onEdit }: RowProps) {
  const [changed, setChanged] = useState<Channel[] | null>(null)
  const channels = changed ?? device.channels
  const save = useChange(rig.slug, () =>
    need(
      api.PUT('/api/v1/rigs/{slug}/devices', {
        params: { path: { slug: rig.slug } },
        body: {
          instrument: device.instrument ?? null,
          channels: channels.map(({ source, role, name, sensor, offset, kept }) => ({ source, role, name, sensor, offset, kept })),
        },
      }),
    ),
  )
  const remove = useChange(rig.slug, () =>
    need(api.DELETE('/api/v1/rigs/{slug}/instruments/{number}', { params: { path: { slug: rig.slug, number: device.instrument! } } })),
  )
  const set = (i: number, part: Partial<Channel>) => setChanged(channels.map((c, k) => (k === i ? { ...c, ...part } : c)))
  return (
    <section className="device" aria-label={device.name}>
      <div className="between">
        <h3>
          {device.instrument == null ? 'Controller' : device.name} <span className="small dim">{device.place}</span>
        </h3>
        <span className={device.online && !device.message ? 'small dim' : 'small wrong'}>
          {device.online && !device.message ? 'answers' : <Said>{device.message}</Said>}
        </span>
        {device.instrument != null && (
          <span className="row">
            <button className="button quiet" onClick={onEdit}>
              Where it is
            </button>
            <button className="button quiet" disabled={remove.isPending} onClick={() => remove.mutate(undefined)}>
              Remove
            </button>
          </span>
        )}
      </div>
      {channels.length ? (
        <table className="plain channellist">
          <thead>
            <tr>
              <th>It shows</th>
              <th>which is</th>
              <th>called</th>
              <th>measured by</th>
              <th>add</th>
              <th>record</th>
            </tr>
          </thead>
          <tbody>
            {channels.map((c, i) => (
              <tr key={c.source}>
                <td>{c.words}</td>
                <td>
                  <SelectField
                    bare
                    label={`${c.words} is`}
                    value={c.role}
                    options={roles.filter((r) => r.kind === (c.kind ?? null)).map((r) => [r.key, r.words] as const)}
                    onChange={(role) => set(i, { role })}
                  />
                </td>
                <td className="field">
                  <input
                    aria-label={`Name of ${c.words}`}
                    value={c.name}
                    placeholder={c.called}
                    onChange={(e) => set(i, { name: e.target.value })}
                  />
                </td>
                <td className="field">
                  <input aria-label={`Sensor of ${c.words}`} value={c.sensor} onChange={(e) => set(i, { sensor: e.target.value })} />
                </td>
                <td>
                  <NumberField
                    bare
                    label={`Added to ${c.words}`}
                    kind={c.kind === 'temperature' ? 'temperature_difference' : ((c.kind ?? undefined) as Quantity | undefined)}
                    value={c.offset}
                    onChange={(offset) => set(i, { offset: offset ?? 0 })}
                  />
                </td>
                <td>
                  <input
                    type="checkbox"
                    aria-label={`Record ${c.words}`}
                    checked={c.kept}
                    onChange={(e) => set(i, { kept: e.target.checked })}
                  />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : (
        <p className="dim">It shows nothing beside its reading, set-point and output.</p>
      )}
      {changed && (
        <div className="row">
          <button
            className="button main"
            disabled={save.isPending}
            onClick={() => save.mutate(undefined, { onSuccess: () => setChanged((now) => (now === changed ? null : now)) })}
          >
            Keep
          </button>
          <button className="button" onClick={() => setChanged(null)}>
            Leave it
          </button>
        </div>
      )}
      <Refused error={save.error ?? remove.error} />
    </section>
  )
}

function InstrumentForm({ rig, number, onDone }: { rig: Rig; number: number | null; onDone: () => void }) {
  const { label } = useWords()
  const [draft, setDraft] = useKept<Draft | null>(
    `instrument ${rig.slug} ${number ?? 'new'}`,
    number == null ? { ...NEW_PLACE, name: '' } : null,
  )
  const [asked, setAsked] = useState(false)
  const load = async () => {
    const all = await need(api.GET('/api/v1/rigs/{slug}/instruments', { params: { path: { slug: rig.slug } } }))
    const found = all.find((i) => i.id === number)
    if (found) setDraft({ ...placeOf(found), name: found.name })
  }
  if (!draft && !asked) {
    setAsked(true)
    void load()
  }
  const save = useChange(rig.slug, () => {
    const body = sent(draft!)
    return number == null
      ? need(api.POST('/api/v1/rigs/{slug}/instruments', { params: { path: { slug: rig.slug } }, body }))
      : need(api.PUT('/api/v1/rigs/{slug}/instruments/{number}', { params: { path: { slug: rig.slug, number } }, body }))
  })
  const problem = (field: string) => problemOf(save.error, field)
  const done = () => (setDraft(number == null ? { ...NEW_PLACE, name: '' } : null), onDone())
  if (!draft) return <p className="wait">Looking…</p>
  const set = (part: Partial<Draft>) => setDraft({ ...draft, ...part })
  return (
    <section className="stack device" aria-label="Instrument">
      <p className="dim">A logger, a meter, a limiter that can be read. Rellux only ever reads it.</p>
      <div style={{ maxWidth: 320 }}>
        <TextField label={label('name')} value={draft.name ?? ''} onChange={(name) => set({ name })} problem={problem('name')} />
      </div>
      <PlaceFields what="Instrument" place={draft} onChange={set} problem={problem} />
      <div className="row">
        <button className="button main" disabled={save.isPending} onClick={() => save.mutate(undefined, { onSuccess: done })}>
          {number == null ? 'Add it' : 'Change it'}
        </button>
        <button className="button" onClick={done}>
          Leave it
        </button>
      </div>
      <Refused error={save.error} />
    </section>
  )
}
