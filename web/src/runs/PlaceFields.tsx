import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { api, need, type Problem, type Schemas } from '../api/client'
import { useMaps } from '../maps/data'
import { NumberField, SecretField, SelectField, TextField } from '../shared/fields'
import { Segments } from '../shared/Segments'
import { useWords } from '../units/fields'
import { GrowingLog } from './GrowingLog'
import { Listen } from './Listen'

type Place = Omit<Schemas['InstrumentInputRequest'], 'name'>

/** ``has_password``: one is kept and may be left as it is. */
export type KnownPlace = Place & { has_password?: boolean }

export const NEW_PLACE: KnownPlace = {
  stand_in: true,
  host: '192.168.1.10',
  port: 502,
  unit_id: 1,
  poll_s: 0.25,
  register_map: 'stand_in',
  way: 'tcp',
  device: '',
  baud: 9600,
  parity: 'N',
  stop_bits: 1,
  line_format: null,
  mapping: null,
  username: '',
  password: null,
  encrypted: false,
  authority: '',
  has_password: false,
}

/** A place as it is now, to be changed. */
export const placeOf = (known: Required<Omit<KnownPlace, 'password'>>): KnownPlace => ({
  ...Object.fromEntries(Object.keys(NEW_PLACE).map((key) => [key, key === 'password' ? null : known[key as keyof typeof known]])),
  stand_in: known.stand_in,
  host: known.stand_in ? NEW_PLACE.host : known.host,
  port: known.stand_in ? NEW_PLACE.port : known.port,
})

const WIRED = ['serial', 'text']
/** Readings come by themselves, in no registers. */
const LISTENED = ['text', 'file', 'mqtt']
/** Chosen to type one that the system does not list. */
const OTHER_PORT = '…'
const MQTT_PORT = 1883
const MQTT_TLS_PORT = 8883
const MODBUS_PORT = 502

/** A place without what does not belong to its way. A simulated one that has a serial port of its own keeps it. */
export function sent<T extends KnownPlace>(known: T) {
  const place = { ...known }
  delete place.has_password
  if (place.stand_in && !WIRED.includes(place.way ?? '')) return { ...place, way: 'tcp', host: '127.0.0.1', port: null }
  const own = {
    line_format: place.way === 'text' ? place.line_format : null,
    mapping: place.way === 'file' ? place.mapping : null,
    ...(LISTENED.includes(place.way ?? '') && { register_map: 'text' }),
  }
  return [...WIRED, 'file'].includes(place.way ?? '') ? { ...place, ...own, port: null } : { ...place, ...own }
}

interface Props {
  what: string
  place: KnownPlace
  onChange: (part: Partial<KnownPlace>) => void
  problem: (field: string) => Problem | undefined
}

/** How a device is reached, field by field as its way asks. */
export function PlaceFields({ what, place, onChange, problem }: Props) {
  const way = place.stand_in ? 'simulated' : (place.way ?? 'tcp')
  return (
    <>
      <Segments
        label={what}
        value={way}
        options={[
          ['simulated', 'Simulated'],
          ['tcp', 'Modbus TCP'],
          ['serial', 'RTU, serial'],
          ['rtu_tcp', 'RTU over TCP'],
          ['text', 'Board that prints'],
          ['file', 'Growing log'],
          ['mqtt', 'MQTT'],
        ]}
        onChange={(v) =>
          onChange({
            stand_in: v === 'simulated',
            way: v === 'simulated' ? 'tcp' : v,
            device: '',
            ...(v === 'serial' && (place.poll_s ?? 0) < 1 && { poll_s: 1 }),
            ...(v === 'text' && { baud: 115200 }),
            ...(v === 'file' && { poll_s: 1 }),
            ...(v === 'mqtt'
              ? { port: MQTT_PORT, poll_s: 1 }
              : [MQTT_PORT, MQTT_TLS_PORT].includes(place.port ?? 0) && { port: MODBUS_PORT }),
            register_map: LISTENED.includes(v) ? 'text' : place.register_map === 'text' ? 'stand_in' : place.register_map,
          })
        }
      />
      {!LISTENED.includes(place.way ?? '') && <MapField place={place} onChange={onChange} problem={problem} />}
      {way === 'file' && <GrowingLog path={place.device ?? ''} mapping={place.mapping ?? null} onChange={onChange} problem={problem} />}
      {!place.stand_in && (
        <div className="linkform">
          {way === 'file' ? null : WIRED.includes(way) ? (
            <PortFields place={place} onChange={onChange} problem={problem} />
          ) : (
            <NetFields place={place} onChange={onChange} problem={problem} />
          )}
          <PaceFields place={place} onChange={onChange} problem={problem} />
        </div>
      )}
      {!place.stand_in && way === 'text' && (
        <Listen
          device={place.device ?? ''}
          baud={place.baud ?? 115200}
          format={place.line_format ?? null}
          onFormat={(line_format, interval) => onChange({ line_format, ...(interval && { poll_s: interval }) })}
        />
      )}
      {way === 'mqtt' && <BrokerFields place={place} onChange={onChange} problem={problem} />}
      {way === 'mqtt' && (
        <p className="dim small">
          Each message says when it was sent; what is older than ten seconds is not live, and what the broker kept is not obeyed. The form
          is described in docs/mqtt.md. Nothing is ever published.
        </p>
      )}
      {way === 'serial' && (
        <p className="dim small">
          One master on a bus: nothing else may ask while Rellux does. If it stays mute, exchange A and B; 120 Ω at both ends, a common
          wire.
        </p>
      )}
    </>
  )
}

type Part = Omit<Props, 'what'>

function MapField({ place, onChange, problem }: Part) {
  const { label } = useWords()
  const maps = useMaps()
  return (
    <div className="row">
      <SelectField
        label={label('register_map')}
        value={place.register_map ?? 'stand_in'}
        options={(maps.data?.maps ?? []).map((m) => [m.key, m.title] as const)}
        onChange={(register_map) => onChange({ register_map })}
        problem={problem('register_map')}
      />
      <Link to="/maps">Register maps</Link>
    </div>
  )
}

function NetFields({ place, onChange, problem }: Part) {
  const { label } = useWords()
  return (
    <>
      <TextField label={label('host')} value={place.host ?? ''} onChange={(host) => onChange({ host })} problem={problem('host')} />
      <NumberField label={label('port')} value={place.port ?? null} onChange={(port) => onChange({ port })} problem={problem('port')} />
      {place.way === 'mqtt' && (
        <TextField
          label={label('topic')}
          value={place.device ?? ''}
          placeholder="rellux/kiln"
          onChange={(device) => onChange({ device })}
          problem={problem('device')}
        />
      )}
    </>
  )
}

/** Who Rellux is to the broker, and whether others on the way can read along. */
function BrokerFields({ place, onChange, problem }: Part) {
  const { label } = useWords()
  return (
    <>
      <Segments
        label="The way to the broker"
        value={place.encrypted ? 'tls' : 'plain'}
        options={[
          ['plain', 'Open'],
          ['tls', 'Encrypted'],
        ]}
        onChange={(v) =>
          onChange({
            encrypted: v === 'tls',
            ...(v === 'tls' && place.port === MQTT_PORT && { port: MQTT_TLS_PORT }),
            ...(v === 'plain' && place.port === MQTT_TLS_PORT && { port: MQTT_PORT }),
          })
        }
      />
      <div className="linkform">
        <TextField
          label={label('username')}
          value={place.username ?? ''}
          placeholder="nobody in particular"
          onChange={(username) => onChange({ username })}
          problem={problem('username')}
        />
        <SecretField
          label={label('password')}
          value={place.password ?? ''}
          placeholder={place.has_password ? 'the one that is kept' : ''}
          onChange={(password) => onChange({ password: password || null })}
          problem={problem('password')}
        />
      </div>
      {place.encrypted && (
        <div style={{ maxWidth: 480 }}>
          <TextField
            label={label('authority')}
            value={place.authority ?? ''}
            placeholder="whoever this machine trusts"
            hint="for a broker of your own: the file of the certificate that vouches for it"
            onChange={(authority) => onChange({ authority })}
            problem={problem('authority')}
          />
        </div>
      )}
      {place.username && (
        <p className="dim small">
          The password is kept in the data folder as it is.
          {!place.encrypted && ' Anybody on the same network can read it on its way.'}
        </p>
      )}
    </>
  )
}

function PortFields({ place, onChange, problem }: Part) {
  const { label } = useWords()
  const found = useQuery({ queryKey: ['serial-ports'], queryFn: () => need(api.GET('/api/v1/serial-ports')) })
  const listed = found.data?.ports ?? []
  const [other, setOther] = useState(!!place.device && !listed.some((p) => p.device === place.device))
  return (
    <>
      {other ? (
        <TextField
          label={label('device')}
          value={place.device ?? ''}
          placeholder="/dev/…"
          onChange={(device) => onChange({ device })}
          problem={problem('device')}
          hint="as the system calls it"
        />
      ) : (
        <SelectField
          label={label('device')}
          value={place.device ?? ''}
          options={[['', 'choose one'], ...listed.map((p) => [p.device, p.words] as const), [OTHER_PORT, 'another, not listed…']]}
          onChange={(device) => (device === OTHER_PORT ? setOther(true) : onChange({ device }))}
          problem={problem('device')}
          hint={found.data && !listed.length ? 'this machine lists no serial port at the moment' : undefined}
        />
      )}
      <SelectField
        label={label('baud')}
        value={String(place.baud)}
        options={(found.data?.bauds ?? [place.baud ?? 9600]).map((b) => [String(b), String(b)] as const)}
        onChange={(baud) => onChange({ baud: Number(baud) })}
        problem={problem('baud')}
      />
      {place.way === 'serial' && (
        <>
          <SelectField
            label={label('parity')}
            value={place.parity ?? 'N'}
            options={(found.data?.parities ?? []).map((p) => [p.letter, p.words] as const)}
            onChange={(parity) => onChange({ parity })}
            problem={problem('parity')}
          />
          <SelectField
            label={label('stop_bits')}
            value={String(place.stop_bits)}
            options={[
              ['1', '1'],
              ['2', '2'],
            ]}
            onChange={(v) => onChange({ stop_bits: Number(v) })}
            problem={problem('stop_bits')}
          />
        </>
      )}
    </>
  )
}

function PaceFields({ place, onChange, problem }: Part) {
  const { label } = useWords()
  const listened = LISTENED.includes(place.way ?? '')
  return (
    <>
      {!listened && (
        <NumberField
          label={label('unit_id')}
          value={place.unit_id ?? null}
          onChange={(unit_id) => onChange({ unit_id: unit_id ?? 0 })}
          problem={problem('unit_id')}
        />
      )}
      <NumberField
        label={listened ? 'Comes every' : label('poll_s')}
        kind="time"
        value={place.poll_s ?? null}
        onChange={(poll_s) => onChange({ poll_s: poll_s ?? 0 })}
        problem={problem('poll_s')}
      />
    </>
  )
}
