import { useQuery } from '@tanstack/react-query'
import { Link, useOutletContext } from 'react-router'
import { api, need, type Quantity, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { useDraft } from '../api/kept'
import { useLive } from '../api/live'
import { Said } from '../shared/Said'
import { NumberField, TextField } from '../shared/fields'
import { Conflict } from '../shared/Conflict'
import { Fetched } from '../shared/Fetched'
import { Fig } from '../shared/Fig'
import { Resumed } from '../shared/Resumed'
import { Segments } from '../shared/Segments'
import { problemOf, Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { ReasonOfPlace } from '../shell/reason'
import { said } from '../units/message'
import { capital, say } from '../units/quantity'
import { OffsetHistory } from './OffsetHistory'
import './calibration.css'

type School = Schemas['SchoolEnum']
interface Row {
  display_c: number | null
  reference_c: number | null
}
interface Typed {
  school: School
  rows: Row[]
  existing: number | null
  resolution: number | null
  limit: number | null
  setpoint: number | null
  referenceU: number | null
  reference: string
}
const LABEL: Record<string, string> = {
  school: 'Kind of control',
  rows: 'Pairs',
  existing: 'Offset in it now',
  resolution: 'Its smallest step',
  limit: 'Its limit',
  setpoint: 'Set-point',
  referenceU: 'Reference, standard uncertainty',
  reference: 'Compared with',
}
const TEMPERATURES: Record<string, Quantity> = {
  existing: 'temperature_difference',
  resolution: 'temperature_difference',
  limit: 'temperature_difference',
  setpoint: 'temperature',
  referenceU: 'temperature_difference',
}
const SCHOOL: Record<School, string> = { added_to_reading: 'Added to the reading', temperature_adjust: 'Temperature adjustment' }
const ROWS: Row[] = Array.from({ length: 3 }, () => ({ display_c: null, reference_c: null }))

/** Pairs in, the offset to enter out. */
export default function Calibration() {
  const rig = useOutletContext<Rig>()
  const query = useQuery({
    queryKey: ['of', rig.slug, 'calibration', rig.revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/calibration', { params: { path: { slug: rig.slug } } })),
    placeholderData: (before) => before,
  })
  return (
    <>
      <h1>Can the display be trusted?</h1>
      {rig.choice ? (
        <Fetched query={query}>
          {(data) => (
            <>
              <OffsetHistory rows={data.rows} tolerance={data.tolerance_c} sensor={data.sensor} />
              <Worksheet rig={rig} data={data} />
            </>
          )}
        </Fetched>
      ) : (
        <div className="empty" style={{ marginTop: 14 }}>
          <p>Choose the sensor first.</p>
          <Link className="button" to={`/rigs/${rig.slug}/parts`}>
            Parts
          </Link>
        </div>
      )}
      <ReasonOfPlace>
        <h2>Two kinds of controls</h2>
        <p>
          <b>Added to the reading</b>: display = raw + offset. A display that reads too high needs a negative offset.
        </p>
        <p>
          <b>Temperature adjustment</b>: the number makes the oven hotter or cooler. For the same fault it has the opposite sign, so the two
          are never mixed.
        </p>
        <p>
          Warm up and settle for 10–15 minutes. Three pairs with strips, six for a cycling oven. New sensor: set the offset to zero first.
        </p>
        <div className="caution">
          <strong>Hot parts.</strong> Reach in with gloves and the heat off; a reference probe is clamped, not held.
        </div>
      </ReasonOfPlace>
    </>
  )
}

function Worksheet({ rig, data }: { rig: Rig; data: Schemas['CalibrationView'] }) {
  const { unit } = usePreferences()
  const live = useLive(rig.slug)
  const draft = useDraft<Typed>(
    rig.slug,
    'calibration',
    {
      school: data.school,
      rows: ROWS,
      existing: data.offset_c,
      resolution: data.step_c,
      limit: 20,
      setpoint: rig.purpose.working_c,
      referenceU: 0,
      reference: '',
    },
    data.revision,
  )
  const { rows, existing, resolution, limit, setpoint, referenceU, reference } = draft.values
  const school = data.school_fixed_by ? data.school : draft.values.school
  const number = (name: 'existing' | 'resolution' | 'limit' | 'setpoint' | 'referenceU') =>
    orUnreadable((value) => draft.set({ [name]: value }))
  const added = school === 'added_to_reading'
  const filled = rows.filter((r) => r.reference_c != null && (!added || r.display_c != null))
  const offset: Schemas['OffsetInputRequest'] = {
    pairs: filled.map((r) => ({ display_c: r.display_c ?? setpoint ?? 0, reference_c: r.reference_c! })),
    school,
    existing_c: existing,
    resolution_c: resolution ?? 0,
    limit_c: limit ?? 0,
    setpoint_c: added ? null : setpoint,
    reference_u_c: referenceU ?? 0,
  }
  const unreadable = [existing, setpoint, resolution, limit, referenceU, ...rows.flatMap((r) => [r.display_c, r.reference_c])].some(
    Number.isNaN,
  )
  const result = useQuery({
    queryKey: ['of', rig.slug, 'calibration', 'preview', offset],
    queryFn: () => need(api.POST('/api/v1/rigs/{slug}/calibration/preview', { params: { path: { slug: rig.slug } }, body: offset })),
    enabled: filled.length > 0 && !unreadable,
    placeholderData: (before) => before,
    retry: false,
  })
  const save = useChange(rig.slug, (enter: boolean) =>
    need(
      api.POST('/api/v1/rigs/{slug}/calibration', {
        params: { path: { slug: rig.slug } },
        body: { revision: draft.revision, offset, reference, enter },
      }),
    ),
  )
  const change = (i: number, part: Partial<Row>) => draft.set({ rows: rows.map((r, k) => (k === i ? { ...r, ...part } : r)) })
  const found = filled.length && !unreadable ? result.data : undefined
  return (
    <div className="cal">
      <div className="stack">
        <h2>Compare</h2>
        <Resumed draft={draft} />
        <Conflict
          draft={draft}
          label={(f) => LABEL[f] ?? f}
          says={(f, v) => (typeof v === 'number' ? say(v, TEMPERATURES[f] ?? null, unit) : typeof v === 'string' ? v : '–')}
        />
        {data.school_fixed_by ? (
          <p>
            This controller’s offset is <b>{SCHOOL[school].toLowerCase()}</b>, {data.school_fixed_by}.{' '}
            <Link to={`/rigs/${rig.slug}/setup`}>Set-up</Link>
          </p>
        ) : (
          <Segments
            label="Kind of control"
            value={school}
            options={Object.entries(SCHOOL) as [School, string][]}
            onChange={(chosen) => draft.set({ school: chosen })}
          />
        )}
        <div className="pairs">
          <span />
          <span />
          <span className="head">{added ? 'display' : 'display (optional)'}</span>
          <span className="head">reference</span>
          {rows.map((r, i) => (
            <PairRow
              key={i}
              index={i}
              row={r}
              onChange={(part) => change(i, part)}
              onTake={live?.status === 'online' ? () => change(i, { display_c: live.reading_c }) : undefined}
            />
          ))}
        </div>
        <div>
          <button className="button quiet" onClick={() => draft.set({ rows: [...rows, { display_c: null, reference_c: null }] })}>
            One more pair
          </button>
        </div>
        <div className="grid2">
          <NumberField
            label="Offset in it now"
            kind="temperature_difference"
            value={existing}
            onChange={number('existing')}
            problem={problemOf(result.error, 'existing_c')}
          />
          {!added && (
            <NumberField
              label="Set-point"
              kind="temperature"
              value={setpoint}
              onChange={number('setpoint')}
              problem={problemOf(result.error, 'setpoint_c')}
            />
          )}
          <NumberField
            label="Its smallest step"
            kind="temperature_difference"
            value={resolution}
            onChange={number('resolution')}
            problem={problemOf(result.error, 'resolution_c')}
          />
          <NumberField
            label="Its limit, ±"
            kind="temperature_difference"
            value={limit}
            onChange={number('limit')}
            problem={problemOf(result.error, 'limit_c')}
          />
          <NumberField
            label="Reference, standard uncertainty"
            kind="temperature_difference"
            value={referenceU}
            onChange={number('referenceU')}
          />
        </div>
      </div>
      <div className="stack">
        <h2>Enter this</h2>
        {result.error ? (
          <Refused error={result.error} />
        ) : found ? (
          <>
            <div className="answer">
              <span className="huge">
                <Fig figure={found.to_enter} />
              </span>
              <p>{said(found.sentence, unit)}</p>
            </div>
            <p>
              <span className={`badge ${found.touch ? 'fine' : 'fault'}`}>{found.touch ? 'correct it' : 'leave it'}</span>{' '}
              {said(found.advice, unit)}
            </p>
            <table className="plain">
              <tbody>
                {[found.error, found.spread, found.uncertainty, found.exact, found.left_over].map((f) => (
                  <tr key={f.name}>
                    <td>
                      <Said>{capital(f.name)}</Said>
                    </td>
                    <td className="right">
                      <Fig figure={f} />
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </>
        ) : (
          <p className="dim">Enter a pair: what the display shows, and what the trusted thermometer shows at the same moment.</p>
        )}
        <TextField
          label="Compared with"
          placeholder="reference thermometer, strip, ice bath…"
          value={reference}
          onChange={(reference) => draft.set({ reference })}
          problem={problemOf(save.error, 'reference')}
        />
        <Refused error={save.error} />
        <div className="row">
          <button
            className="button main"
            disabled={!found || !!result.error || !!draft.theirs || save.isPending}
            onClick={() => save.mutate(true, { onSuccess: draft.discard })}
          >
            Enter the offset
          </button>
          <button
            className="button"
            disabled={!found || !!result.error || !!draft.theirs || save.isPending}
            onClick={() => save.mutate(false, { onSuccess: draft.discard })}
          >
            Record, leave as found
          </button>
        </div>
        {save.isSuccess && <p role="status">Recorded in the book.</p>}
      </div>
    </div>
  )
}

interface PairRowProps {
  index: number
  row: Row
  onChange: (part: Partial<Row>) => void
  onTake?: () => void
}

function PairRow({ index, row, onChange, onTake }: PairRowProps) {
  return (
    <>
      <span className="num dim">{index + 1}</span>
      {onTake ? (
        <button
          className="button quiet"
          onClick={onTake}
          aria-label={`Take display ${index + 1} from the live reading`}
          title="Take the live reading"
        >
          →
        </button>
      ) : (
        <span />
      )}
      <NumberField
        bare
        label={`Display ${index + 1}`}
        kind="temperature"
        value={row.display_c}
        onChange={orUnreadable((display_c) => onChange({ display_c }))}
      />
      <NumberField
        bare
        label={`Reference ${index + 1}`}
        kind="temperature"
        value={row.reference_c}
        onChange={orUnreadable((reference_c) => onChange({ reference_c }))}
      />
    </>
  )
}

/** A number that cannot be read is kept as such, so that nothing is worked out without it. */
const orUnreadable = (set: (value: number | null) => void) => (value: number | null, wrong: boolean) => set(wrong ? NaN : value)
