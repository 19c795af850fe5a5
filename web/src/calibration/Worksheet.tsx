import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { Conflict } from '../shared/Conflict'
import { NumberField, TextField } from '../shared/fields'
import { Resumed } from '../shared/Resumed'
import { Segments } from '../shared/Segments'
import { problemOf, Refused } from '../shared/states'
import { useWords } from '../units/fields'
import { Circumstances } from './Circumstances'
import { answersOf, type Compared, orUnreadable, type School, schoolOf, type Typed, useComparison } from './draft'
import { Outcome } from './Outcome'
import { Pairs } from './Pairs'
import { Standard, useStandard } from './Standard'

/** Where the form's words are its own; the others are the fields' everywhere. */
const OWN: Record<string, string> = {
  rows: 'Pairs',
  limit_c: 'Its limit, ±',
  how: 'How they were compared',
  at_c: 'Compared at',
  compared_with: 'Reference',
}

/** Pairs typed or taken live, what they were compared with, and the offset that follows. */
export function Worksheet({ rig, data }: { rig: Rig; data: Compared }) {
  const draft = useComparison(rig, data)
  const { label, says, choices } = useWords()
  const own = useStandard(rig, draft).data?.worth?.value?.value ?? null
  const school = schoolOf(data, draft)
  const added = school === 'added_to_reading'
  const asked = offsetOf(draft.values, school, own)
  const result = useQuery({
    queryKey: ['of', rig.slug, 'calibration', 'preview', rig.revision, asked.offset],
    queryFn: () => need(api.POST('/api/v1/rigs/{slug}/calibration/preview', { params: { path: { slug: rig.slug } }, body: asked.offset })),
    enabled: asked.filled > 0 && !asked.unreadable,
    placeholderData: (before) => before,
    retry: false,
  })
  const { reference, anyway } = draft.values
  const save = useChange(rig.slug, (enter: boolean) =>
    need(
      api.POST('/api/v1/rigs/{slug}/calibration', {
        params: { path: { slug: rig.slug } },
        body: { revision: draft.revision, offset: asked.offset, reference, enter, anyway },
      }),
    ),
  )
  const number = (name: 'existing_c' | 'resolution_c' | 'limit_c' | 'setpoint_c') => ({
    label: OWN[name] ?? label(name),
    kind: name === 'setpoint_c' ? ('temperature' as const) : ('temperature_difference' as const),
    value: draft.values[name],
    onChange: orUnreadable((value) => draft.set({ [name]: value })),
    problem: problemOf(result.error, name),
  })
  const found = asked.filled && !asked.unreadable ? result.data : undefined
  const stopped = !found || !!result.error || !!draft.theirs || save.isPending
  const needsReason = !!found?.needs_reason
  return (
    <div className="cal">
      <div className="stack">
        <Resumed draft={draft} />
        <Conflict draft={draft} label={(f) => OWN[f] ?? label(f)} says={(f, v) => says(f === 'limit_c' ? 'existing_c' : f, v)} />
        <Standard rig={rig} data={data} draft={draft} wrong={result.error ?? save.error} />
        <h2>Compare</h2>
        <Pairs rig={rig} draft={draft} added={added} own={own} />
        {data.school_fixed_by ? (
          <p>
            This controller’s offset is <b>{says('school', school).toLowerCase()}</b>, {data.school_fixed_by}.{' '}
            <Link to={`/rigs/${rig.slug}/setup`}>Set-up</Link>
          </p>
        ) : (
          <Segments
            label={label('school')}
            value={school}
            options={choices('school') as [School, string][]}
            onChange={(chosen) => draft.set({ school: chosen })}
          />
        )}
        <div className="grid2">
          <NumberField {...number('existing_c')} />
          {!added && <NumberField {...number('setpoint_c')} />}
          <NumberField {...number('resolution_c')} />
          <NumberField {...number('limit_c')} />
        </div>
        <Circumstances draft={draft} wrong={result.error} />
      </div>
      <div className="stack">
        <h2>{found && !found.touch ? 'Do not enter this yet' : 'Enter this'}</h2>
        {result.error ? (
          <Refused error={result.error} />
        ) : found ? (
          <Outcome rig={rig} found={found} />
        ) : (
          <p className="dim">Enter a pair: what the display shows, and what the trusted thermometer shows at the same moment.</p>
        )}
        {needsReason && (
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
            disabled={stopped || (needsReason && !anyway.trim())}
            onClick={() => save.mutate(true, { onSuccess: draft.discard })}
          >
            Enter the offset
          </button>
          <button className="button" disabled={stopped} onClick={() => save.mutate(false, { onSuccess: draft.discard })}>
            Record, leave as found
          </button>
        </div>
        {save.isSuccess && (
          <p role="status">
            Recorded in the book. After entering an offset, let it settle and take another set of pairs: they must agree within their
            uncertainty.
          </p>
        )}
      </div>
    </div>
  )
}

/** What is asked of the server: the pairs that are complete, and what was said of them. */
function offsetOf(typed: Typed, school: School, own: number | null) {
  const added = school === 'added_to_reading'
  const filled = typed.rows.filter((r) => (r.reference_c ?? own) != null && (r.display_c != null || (!added && r.reference_c != null)))
  const { existing_c, resolution_c, limit_c, setpoint_c, display_digit_c, certificate_c, how, at_c } = typed
  const numbers = [at_c, existing_c, resolution_c, limit_c, setpoint_c, display_digit_c, certificate_c, ...Object.values(how)]
  const offset: Schemas['OffsetInputRequest'] = {
    pairs: filled.map((r) => ({ display_c: r.display_c ?? setpoint_c ?? 0, reference_c: r.reference_c })),
    school,
    existing_c,
    resolution_c,
    limit_c: limit_c ?? undefined,
    setpoint_c: added ? null : setpoint_c,
    display_digit_c: display_digit_c ?? undefined,
    certificate_c: certificate_c ?? 0,
    certificate_says: typed.certificate_says,
    compared_with: answersOf(typed.compared_with),
    instrument: typed.instrument,
    at_c: typed.at_c,
    how,
  }
  const unreadable = [...numbers, ...typed.rows.flatMap((r) => [r.display_c, r.reference_c]), ...Object.values(typed.compared_with)].some(
    Number.isNaN,
  )
  return { offset, filled: filled.length, unreadable }
}
