import { useQuery } from '@tanstack/react-query'
import { api, need, type Rig } from '../api/client'
import { useLive } from '../api/live'
import { Fig } from '../shared/Fig'
import { NumberField } from '../shared/fields'
import { Said } from '../shared/Said'
import { SayWhen } from './SayWhen'
import { type Draft, orUnreadable, type Row } from './draft'

const LOOKS_MS = 5000

interface Props {
  rig: Rig
  draft: Draft
  added: boolean
  /** The reference has a temperature of its own, °C: it need not be typed. */
  own: number | null
}

/** Display and reference at the same moment, typed or taken live. */
export function Pairs({ rig, draft, added, own }: Props) {
  const live = useLive(rig.slug)
  const { rows } = draft.values
  const change = (i: number, part: Partial<Row>) => draft.set({ rows: rows.map((r, k) => (k === i ? { ...r, ...part } : r)) })
  const online = live?.status === 'online'
  /** The display of a pair is taken from the live reading at its moment; unless `over`, not where it was typed already. */
  const take = (pair: number, over: boolean) => {
    const filled =
      rows.length > pair
        ? rows
        : [...rows, ...Array.from({ length: pair + 1 - rows.length }, () => ({ display_c: null, reference_c: null }))]
    if (online && (over || filled[pair]!.display_c === null))
      draft.set({ rows: filled.map((r, k) => (k === pair ? { ...r, display_c: live.reading_c } : r)) })
  }
  const missing = rows.flatMap((r, i) => ((r.reference_c ?? own) === null || r.display_c === null ? [i] : []))
  return (
    <>
      {online && <Settling rig={rig} draft={draft} missing={missing} onNow={take} />}
      <div className="pairs">
        <span />
        <span />
        <span className="head">{added ? 'display' : 'display (optional)'}</span>
        <span className="head">{own === null ? 'reference' : 'reference (its own)'}</span>
        {rows.map((r, i) => (
          <PairRow
            key={i}
            index={i}
            row={r}
            own={own}
            onChange={(part) => change(i, part)}
            onTake={online ? () => change(i, { display_c: live.reading_c }) : undefined}
          />
        ))}
      </div>
      <div>
        <button className="button quiet" onClick={() => draft.set({ rows: [...rows, { display_c: null, reference_c: null }] })}>
          One more pair
        </button>
      </div>
    </>
  )
}

/** Whether it has settled, from the run that is being recorded. */
function Settling({
  rig,
  draft,
  missing,
  onNow,
}: {
  rig: Rig
  draft: Draft
  missing: number[]
  onNow: (pair: number, over: boolean) => void
}) {
  const { data } = useQuery({
    queryKey: ['of', rig.slug, 'calibration', 'settled'],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/calibration/settled', { params: { path: { slug: rig.slug } } })),
    refetchInterval: LOOKS_MS,
  })
  if (!data) return null
  const { how } = draft.values
  const { drift_c_per_min, swing_c } = data.how
  const reckoned = how.drift_c_per_min >= drift_c_per_min && how.swing_c >= swing_c
  return (
    <>
      <p className="settling">
        <span className={`badge ${data.state === 'now' ? 'fine' : 'advice'}`}>{data.state === 'now' ? 'settled' : 'not settled'}</span>{' '}
        <Said>{data.says}</Said>
        {data.drift && (
          <>
            {' '}
            Drift: <Fig figure={data.drift} />.
          </>
        )}
        {data.bias && (
          <>
            {' '}
            Pairs at odd moments may be off by ± <Fig figure={data.bias} />.
          </>
        )}
      </p>
      {!reckoned && (
        <button type="button" className="button quiet" onClick={() => draft.set({ how: { ...how, drift_c_per_min, swing_c } })}>
          Reckon with what the run shows now
        </button>
      )}
      {data.moments && <SayWhen slug={rig.slug} moments={data.moments} missing={missing} onNow={onNow} />}
    </>
  )
}

interface PairRowProps {
  index: number
  row: Row
  own: number | null
  onChange: (part: Partial<Row>) => void
  onTake?: () => void
}

function PairRow({ index, row, own, onChange, onTake }: PairRowProps) {
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
        value={row.reference_c ?? (row.display_c === null ? null : own)}
        onChange={orUnreadable((reference_c) => onChange({ reference_c }))}
      />
    </>
  )
}
