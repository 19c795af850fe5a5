import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { api, need, type Problem, type Schemas } from '../api/client'
import { useMaps } from '../maps/data'
import { NumberField, SelectField, TextField } from '../shared/fields'
import { Segments } from '../shared/Segments'
import { useWords } from '../units/fields'
import { Listen } from './Listen'

export type Place = Omit<Schemas['InstrumentInputRequest'], 'name'>

export const NEW_PLACE: Place = {
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
}

/** A place as it is now, to be changed. */
export const placeOf = (known: Required<Place>): Place => ({
  ...Object.fromEntries(Object.keys(NEW_PLACE).map((key) => [key, known[key as keyof Place]])),
  stand_in: known.stand_in,
  host: known.stand_in ? NEW_PLACE.host : known.host,
  port: known.stand_in ? NEW_PLACE.port : known.port,
})

const WIRED = ['serial', 'text']

/** A place without what does not belong to its way. A simulated one that has a serial port of its own keeps it. */
export function sent(place: Place): Place {
  if (place.stand_in && !WIRED.includes(place.way ?? '')) return { ...place, way: 'tcp', host: '127.0.0.1', port: null }
  if (place.way === 'text') return { ...place, port: null, register_map: 'text' }
  if (place.way === 'serial') return { ...place, port: null, line_format: null }
  return { ...place, line_format: null }
}

interface Props {
  what: string
  place: Place
  onChange: (part: Partial<Place>) => void
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
          ['serial', 'Modbus RTU, serial'],
          ['rtu_tcp', 'RTU over TCP'],
          ['text', 'A board that prints'],
        ]}
        onChange={(v) =>
          onChange({
            stand_in: v === 'simulated',
            way: v === 'simulated' ? 'tcp' : v,
            device: '',
            ...(v === 'serial' && (place.poll_s ?? 0) < 1 && { poll_s: 1 }),
            ...(v === 'text' ? { baud: 115200 } : place.register_map === 'text' && { register_map: 'stand_in' }),
          })
        }
      />
      {place.way !== 'text' && <MapField place={place} onChange={onChange} problem={problem} />}
      {!place.stand_in && (
        <div className="linkform">
          {WIRED.includes(way) ? (
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
    </>
  )
}

function PortFields({ place, onChange, problem }: Part) {
  const { label } = useWords()
  const found = useQuery({ queryKey: ['serial-ports'], queryFn: () => need(api.GET('/api/v1/serial-ports')) })
  const listed = found.data?.ports ?? []
  const ports = [
    ...listed,
    ...(place.device && !listed.some((p) => p.device === place.device) ? [{ device: place.device, words: place.device }] : []),
  ]
  return (
    <>
      <SelectField
        label={label('device')}
        value={place.device ?? ''}
        options={[['', 'choose one'], ...ports.map((p) => [p.device, p.words] as const)]}
        onChange={(device) => onChange({ device })}
        problem={problem('device')}
        hint={found.data && !listed.length ? 'this machine has no serial port at the moment' : undefined}
      />
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
  const text = place.way === 'text'
  return (
    <>
      {!text && (
        <NumberField
          label={label('unit_id')}
          value={place.unit_id ?? null}
          onChange={(unit_id) => onChange({ unit_id: unit_id ?? 0 })}
          problem={problem('unit_id')}
        />
      )}
      <NumberField
        label={text ? 'Prints every' : label('poll_s')}
        kind="time"
        value={place.poll_s ?? null}
        onChange={(poll_s) => onChange({ poll_s: poll_s ?? 0 })}
        problem={problem('poll_s')}
      />
    </>
  )
}
