import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { useDraft } from '../api/kept'
import { useLive } from '../api/live'
import { Said } from '../shared/Said'
import { NumberField, TextField } from '../shared/fields'
import { Findings } from '../shared/Findings'
import { Conflict } from '../shared/Conflict'
import { Fig, Figures } from '../shared/Fig'
import { Resumed } from '../shared/Resumed'
import { Segments } from '../shared/Segments'
import { problemOf, Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { useWords } from '../units/fields'
import { said } from '../units/message'

type School = Schemas['SchoolEnum']
type Says = Schemas['CertificateSaysEnum']
interface Row {
  display_c: number | null
  reference_c: number | null
}
interface Typed {
  school: School
  rows: Row[]
  existing_c: number | null
  resolution_c: number | null
  limit_c: number | null
  setpoint_c: number | null
  reference_u_c: number | null
  certificate_c: number | null
  certificate_says: Says | null
  reference: string
  anyway: string
}
/** Where the form's words are its own; the others are the fields' everywhere. */
const OWN: Record<string, string> = { rows: 'Pairs', limit_c: 'Its limit, ±' }
const ROWS: Row[] = Array.from({ length: 3 }, () => ({ display_c: null, reference_c: null }))

/** Pairs typed or taken live, what they were compared with, and the offset that follows. */
export function Worksheet({ rig, data }: { rig: Rig; data: Schemas['CalibrationView'] }) {
  const { unit } = usePreferences()
  const live = useLive(rig.slug)
  const draft = useDraft<Typed>(
    rig.slug,
    'calibration',
    {
      school: data.school,
      rows: ROWS,
      existing_c: data.offset_c,
      resolution_c: data.step_c,
      limit_c: 20,
      setpoint_c: rig.purpose.working_c,
      reference_u_c: null,
      certificate_c: null,
      certificate_says: null,
      reference: '',
      anyway: '',
    },
    data.revision,
  )
  const { rows, existing_c, resolution_c, limit_c, setpoint_c, reference_u_c, certificate_c, certificate_says, reference, anyway } =
    draft.values
  const { label, says, choices } = useWords()
  const schools = choices('school') as [School, string][]
  const school = data.school_fixed_by ? data.school : draft.values.school
  const number = (name: 'existing_c' | 'resolution_c' | 'limit_c' | 'setpoint_c' | 'reference_u_c' | 'certificate_c') => ({
    label: OWN[name] ?? label(name),
    kind: name === 'setpoint_c' ? ('temperature' as const) : ('temperature_difference' as const),
    value: draft.values[name],
    onChange: orUnreadable((value) => draft.set({ [name]: value })),
    problem: problemOf(result.error, name),
  })
  const added = school === 'added_to_reading'
  const filled = rows.filter((r) => r.reference_c != null && (!added || r.display_c != null))
  const offset: Schemas['OffsetInputRequest'] = {
    pairs: filled.map((r) => ({ display_c: r.display_c ?? setpoint_c ?? 0, reference_c: r.reference_c! })),
    school,
    existing_c,
    resolution_c,
    limit_c: limit_c ?? undefined,
    setpoint_c: added ? null : setpoint_c,
    reference_u_c: reference_u_c ?? 0,
    certificate_c: certificate_c ?? 0,
    certificate_says,
  }
  const unreadable = [
    existing_c,
    setpoint_c,
    resolution_c,
    limit_c,
    reference_u_c,
    certificate_c,
    ...rows.flatMap((r) => [r.display_c, r.reference_c]),
  ].some(Number.isNaN)
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
        body: { revision: draft.revision, offset, reference, enter, anyway },
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
        <Conflict draft={draft} label={(f) => OWN[f] ?? label(f)} says={(f, v) => says(f === 'limit_c' ? 'existing_c' : f, v)} />
        {data.school_fixed_by ? (
          <p>
            This controller’s offset is <b>{says('school', school).toLowerCase()}</b>, {data.school_fixed_by}.{' '}
            <Link to={`/rigs/${rig.slug}/setup`}>Set-up</Link>
          </p>
        ) : (
          <Segments label={label('school')} value={school} options={schools} onChange={(chosen) => draft.set({ school: chosen })} />
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
          <NumberField {...number('existing_c')} />
          {!added && <NumberField {...number('setpoint_c')} />}
          <NumberField {...number('resolution_c')} />
          <NumberField {...number('limit_c')} />
        </div>
        <h2>Compared with what?</h2>
        <div className="row">
          {data.references.map((r) => (
            <button
              key={r.key}
              type="button"
              className="button"
              aria-pressed={reference === r.title}
              title={said(r.why, unit)}
              onClick={() => draft.set({ reference: r.title, reference_u_c: r.u_c == null ? null : Number(r.u_c.toPrecision(2)) })}
            >
              {r.title}
            </button>
          ))}
        </div>
        <div className="grid2">
          <TextField
            label={label('reference')}
            placeholder="and its number, if it has one"
            value={reference}
            onChange={(reference) => draft.set({ reference })}
            problem={problemOf(save.error, 'reference')}
          />
          <NumberField {...number('reference_u_c')} hint={data.references.find((r) => r.title === reference)?.why} />
          <NumberField {...number('certificate_c')} hint="Pairs are what it reads: the number is worked in for you." />
        </div>
        {!!certificate_c && (
          <Segments
            label={label('certificate_says')}
            value={certificate_says}
            options={choices('certificate_says') as [Says, string][]}
            onChange={(says) => draft.set({ certificate_says: says })}
          />
        )}
      </div>
      <div className="stack">
        <h2>{found && !found.touch ? 'Do not enter this yet' : 'Enter this'}</h2>
        {result.error ? (
          <Refused error={result.error} />
        ) : found ? (
          <>
            <div className={found.touch ? 'answer' : 'answer dim'}>
              <span className="huge">
                <Fig figure={found.to_enter} />
              </span>
              <p>{said(found.sentence, unit)}</p>
            </div>
            <p>
              <span className={`badge ${found.touch ? 'fine' : 'fault'}`}>{says('verdict_of_offset', found.verdict)}</span>{' '}
              {said(found.advice, unit)}
            </p>
            {found.doubts.length > 0 && <Findings rig={rig} findings={found.doubts} fine="" />}
            {found.causes.length > 0 && <Causes causes={found.causes} sensor={data.sensor} />}
            <Figures figures={[found.error, found.spread, found.uncertainty, found.exact, found.left_over]} />
          </>
        ) : (
          <p className="dim">Enter a pair: what the display shows, and what the trusted thermometer shows at the same moment.</p>
        )}
        {found?.verdict === 'find_cause' && (
          <TextField
            label={label('anyway')}
            placeholder="a reason, kept in the book"
            value={anyway}
            onChange={(anyway) => draft.set({ anyway })}
            problem={problemOf(save.error, 'anyway')}
          />
        )}
        <Refused error={save.error} />
        <div className="row">
          <button
            className="button main"
            disabled={!found || !!result.error || !!draft.theirs || save.isPending || (found.verdict === 'find_cause' && !anyway.trim())}
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

/** What could be behind an error too large for sensor and input, likeliest first. */
function Causes({ causes, sensor }: { causes: Schemas['OffsetResult']['causes']; sensor: string }) {
  const { unit } = usePreferences()
  return (
    <ol className="causes">
      {causes.map((c) => (
        <li key={c.key}>
          <b>
            <Said>{c.title}</Said>
          </b>
          . <span className="dim">{said(c.reason, unit)}</span>
        </li>
      ))}
      <li className="plainly">
        <Link to={`/questions/mistake?sensor=${sensor}`}>How each is told from the others</Link>
      </li>
    </ol>
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
