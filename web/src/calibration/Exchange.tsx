import { useMutation } from '@tanstack/react-query'
import { api, need, type Rig } from '../api/client'
import { useKept } from '../api/kept'
import { Fig } from '../shared/Fig'
import { NumberField } from '../shared/fields'
import { Said } from '../shared/Said'
import { Refused } from '../shared/states'
import { orUnreadable } from './draft'

type Both = { first_c: number | null; second_c: number | null }
const ROWS: Both[] = Array.from({ length: 3 }, () => ({ first_c: null, second_c: null }))
const complete = (rows: Both[]) =>
  rows.filter((r): r is { first_c: number; second_c: number } => Number.isFinite(r.first_c) && Number.isFinite(r.second_c))

/** Two probes compared, exchanged and compared again: what is the instruments' and what the place's. */
export function Exchange({ rig }: { rig: Rig }) {
  const [before, setBefore] = useKept(`exchange before ${rig.slug}`, ROWS)
  const [after, setAfter] = useKept(`exchange after ${rig.slug}`, ROWS)
  const ask = useMutation({
    mutationFn: () =>
      need(
        api.POST('/api/v1/rigs/{slug}/calibration/exchange', {
          params: { path: { slug: rig.slug } },
          body: { before: complete(before), after: complete(after) },
        }),
      ),
  })
  return (
    <details className="fold-out">
      <summary>
        <h2>Two probes differ: which is it, the probe or the place?</h2>
        <span className="dim"> exchange their places, wait until it has settled, compare again</span>
      </summary>
      <div className="cal">
        <Side title="First: pairs as they are" rows={before} onChange={setBefore} />
        <Side title="Then exchange the places" rows={after} onChange={setAfter} />
      </div>
      <Refused error={ask.error} />
      <div className="row">
        <button className="button" disabled={ask.isPending} onClick={() => ask.mutate()}>
          Tell them apart
        </button>
      </div>
      {ask.data && (
        <p role="status">
          <Said>{ask.data.says}</Said> The first shows more by <Fig figure={ask.data.instruments} />; its first place was warmer by{' '}
          <Fig figure={ask.data.gradient} />.
        </p>
      )}
    </details>
  )
}

function Side({ title, rows, onChange }: { title: string; rows: Both[]; onChange: (rows: Both[]) => void }) {
  const change = (i: number, part: Partial<Both>) => onChange(rows.map((r, k) => (k === i ? { ...r, ...part } : r)))
  return (
    <section aria-label={title}>
      <p>{title}</p>
      <div className="pairs">
        <span />
        <span />
        <span className="head">first probe</span>
        <span className="head">second probe</span>
        {rows.map((r, i) => (
          <Row key={i} index={i} row={r} of={title} onChange={(part) => change(i, part)} />
        ))}
      </div>
      <button className="button quiet" onClick={() => onChange([...rows, { first_c: null, second_c: null }])}>
        One more pair
      </button>
    </section>
  )
}

function Row({ index, row, of, onChange }: { index: number; row: Both; of: string; onChange: (part: Partial<Both>) => void }) {
  const field = (name: keyof Both, words: string) => (
    <NumberField
      bare
      label={`${of}: ${words} ${index + 1}`}
      kind="temperature"
      value={row[name]}
      onChange={orUnreadable((value) => onChange({ [name]: value }))}
    />
  )
  return (
    <>
      <span className="num dim">{index + 1}</span>
      <span />
      {field('first_c', 'first probe')}
      {field('second_c', 'second probe')}
    </>
  )
}
