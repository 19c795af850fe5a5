import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { useKept } from '../api/kept'
import { useWords } from '../units/fields'
import { NumberField, SelectField, TextField } from '../shared/fields'
import { useMaps } from '../maps/data'
import { Segments } from '../shared/Segments'
import { problemOf, Refused } from '../shared/states'
import { Listen } from './Listen'

interface Props {
  rig: Rig
  link: Schemas['LinkView'] | null
  onDone: () => void
}

/** Where the controller is. */
export function LinkForm({ rig, link, onDone }: Props) {
  const [draft, setDraft] = useKept<Schemas['LinkInputRequest']>(`link ${rig.slug}`, {
    stand_in: link?.stand_in ?? true,
    host: link && !link.stand_in ? link.host : '192.168.1.10',
    port: link && !link.stand_in ? link.port : 502,
    unit_id: link?.unit_id ?? 1,
    poll_s: link?.poll_s ?? 0.25,
    speed: link?.speed ?? 20,
    register_map: link?.register_map ?? 'stand_in',
    way: link?.way ?? 'tcp',
    device: link?.device ?? '',
    baud: link?.baud ?? 9600,
    parity: link?.parity ?? 'N',
    stop_bits: link?.stop_bits ?? 1,
    line_format: link?.line_format ?? null,
  })
  const { label } = useWords()
  const maps = useMaps()
  const text = !draft.stand_in && draft.way === 'text'
  const serial = !draft.stand_in && (draft.way === 'serial' || text)
  const found = useQuery({ queryKey: ['serial-ports'], enabled: serial, queryFn: () => need(api.GET('/api/v1/serial-ports')) })
  const ports = [
    ...(found.data?.ports ?? []),
    ...(draft.device && !found.data?.ports.some((p) => p.device === draft.device) ? [{ device: draft.device, words: draft.device }] : []),
  ]
  const set = (part: Partial<Schemas['LinkInputRequest']>) => setDraft({ ...draft, ...part })
  const save = useChange(rig.slug, () =>
    need(
      api.PUT('/api/v1/rigs/{slug}/link', {
        params: { path: { slug: rig.slug } },
        body: draft.stand_in
          ? { ...draft, way: 'tcp', host: '127.0.0.1', port: null, unit_id: 1, poll_s: 0.1 }
          : text
            ? { ...draft, port: null, register_map: 'text' }
            : serial
              ? { ...draft, port: null, line_format: null }
              : { ...draft, line_format: null },
      }),
    ),
  )
  if (!rig.choice)
    return (
      <div className="empty">
        <p>Choose the parts first; the link depends on them.</p>
        <Link className="button" to={`/rigs/${rig.slug}/parts`}>
          Parts
        </Link>
      </div>
    )
  const problem = (field: string) => problemOf(save.error, field)
  return (
    <section className="stack" style={{ margin: '12px 0' }} aria-label="Link">
      <Segments
        label="Controller"
        value={draft.stand_in ? 'simulated' : (draft.way ?? 'tcp')}
        options={[
          ['simulated', 'Simulated controller'],
          ['tcp', 'Modbus TCP'],
          ['serial', 'Modbus RTU, serial'],
          ['rtu_tcp', 'RTU over TCP'],
          ['text', 'A board that prints'],
        ]}
        onChange={(v) =>
          set({
            stand_in: v === 'simulated',
            way: v === 'simulated' ? 'tcp' : v,
            ...(v === 'serial' && (draft.poll_s ?? 0) < 1 && { poll_s: 1 }),
            ...(v === 'text' ? { baud: 115200 } : draft.register_map === 'text' && { register_map: 'stand_in' }),
          })
        }
      />
      {!text && (
        <div className="row">
          <SelectField
            label={label('register_map')}
            value={draft.register_map ?? 'stand_in'}
            options={(maps.data?.maps ?? []).map((m) => [m.key, m.title] as const)}
            onChange={(register_map) => set({ register_map })}
            problem={problem('register_map')}
          />
          <Link to="/maps">Register maps</Link>
          {link?.link_loss && link.register_map === draft.register_map && (
            <span className="dim">When nobody asks any more: {link.link_loss}</span>
          )}
        </div>
      )}
      {draft.stand_in ? (
        <>
          <p className="dim">
            Rellux starts a controller with a rig like yours behind it, and talks to it over Modbus TCP as to a real one.
          </p>
          <div style={{ maxWidth: 220 }}>
            <NumberField
              label={label('speed')}
              value={draft.speed ?? 1}
              onChange={(speed) => set({ speed: speed ?? 0 })}
              problem={problem('speed')}
            />
          </div>
        </>
      ) : (
        <div className="linkform">
          {serial ? (
            <>
              <SelectField
                label={label('device')}
                value={draft.device ?? ''}
                options={[['', 'choose one'], ...ports.map((p) => [p.device, p.words] as const)]}
                onChange={(device) => set({ device })}
                problem={problem('device')}
              />
              <SelectField
                label={label('baud')}
                value={String(draft.baud)}
                options={(found.data?.bauds ?? [draft.baud ?? 9600]).map((b) => [String(b), String(b)] as const)}
                onChange={(baud) => set({ baud: Number(baud) })}
                problem={problem('baud')}
              />
              {!text && (
                <SelectField
                  label={label('parity')}
                  value={draft.parity ?? 'N'}
                  options={(found.data?.parities ?? []).map((p) => [p.letter, p.words] as const)}
                  onChange={(parity) => set({ parity })}
                  problem={problem('parity')}
                />
              )}
              {!text && (
                <SelectField
                  label={label('stop_bits')}
                  value={String(draft.stop_bits)}
                  options={[
                    ['1', '1'],
                    ['2', '2'],
                  ]}
                  onChange={(v) => set({ stop_bits: Number(v) })}
                  problem={problem('stop_bits')}
                />
              )}
            </>
          ) : (
            <>
              <TextField label={label('host')} value={draft.host ?? ''} onChange={(host) => set({ host })} problem={problem('host')} />
              <NumberField label={label('port')} value={draft.port ?? null} onChange={(port) => set({ port })} problem={problem('port')} />
            </>
          )}
          {!text && (
            <NumberField
              label={label('unit_id')}
              value={draft.unit_id ?? null}
              onChange={(unit_id) => set({ unit_id: unit_id ?? 0 })}
              problem={problem('unit_id')}
            />
          )}
          <NumberField
            label={text ? 'Prints every' : label('poll_s')}
            kind="time"
            value={draft.poll_s ?? null}
            onChange={(poll_s) => set({ poll_s: poll_s ?? 0 })}
            problem={problem('poll_s')}
          />
        </div>
      )}
      {text && (
        <Listen
          device={draft.device ?? ''}
          baud={draft.baud ?? 115200}
          format={draft.line_format ?? null}
          onFormat={(line_format, interval) => set({ line_format, ...(interval && { poll_s: interval }) })}
        />
      )}
      {serial && !text && (
        <p className="dim small">
          {found.data?.ports.length === 0 && 'This machine has no serial port at the moment. '}
          One master on a bus: nothing else may ask while Rellux does. If it stays mute, exchange A and B; 120 Ω at both ends, a common
          wire.
        </p>
      )}
      <div className="row">
        <button className="button main" disabled={save.isPending} onClick={() => save.mutate(undefined, { onSuccess: onDone })}>
          {draft.stand_in ? 'Start it' : 'Link'}
        </button>
        {link && (
          <button className="button" onClick={onDone}>
            Leave it
          </button>
        )}
      </div>
      <Refused error={save.error} />
    </section>
  )
}
