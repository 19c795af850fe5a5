import { useMutation } from '@tanstack/react-query'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useKept } from '../api/kept'
import { Fig } from '../shared/Fig'
import { NumberField } from '../shared/fields'
import { Said } from '../shared/Said'
import { Segments } from '../shared/Segments'
import { problemOf, Refused } from '../shared/states'
import { useWords } from '../units/fields'
import { orUnreadable } from './draft'

type Lead = Schemas['LeadEnum']
interface Row {
  feed: number | null
  display_c: number | null
}
interface Typed {
  rows: Row[]
  lead: Lead
  junction_c: number | null
  known_c: number | null
  accuracy: number | null
}
const START: Typed = {
  rows: Array.from({ length: 3 }, () => ({ feed: null, display_c: null })),
  lead: 'copper',
  junction_c: 25,
  known_c: 1,
  accuracy: 0.01,
}
const PLATINUM = ['Pt100', 'Pt1000']
const complete = (rows: Row[]) =>
  rows.filter((r): r is { feed: number; display_c: number } => Number.isFinite(r.feed) && Number.isFinite(r.display_c))

/** The input fed in place of its sensor: which of the two an error belongs to. */
export function InputAlone({ rig }: { rig: Rig }) {
  const [typed, set] = useKept<Typed>(`input alone ${rig.slug}`, START)
  const { label, choices } = useWords()
  const ohms = PLATINUM.includes(rig.choice?.sensor ?? '')
  const unit = ohms ? 'Ω' : typed.lead === 'simulator' ? '°C' : 'mV'
  const ask = useMutation({
    mutationFn: () =>
      need(
        api.POST('/api/v1/rigs/{slug}/calibration/input', {
          params: { path: { slug: rig.slug } },
          body: {
            fed: complete(typed.rows),
            source: {
              lead: typed.lead,
              junction_c: typed.junction_c ?? undefined,
              known_c: typed.known_c ?? undefined,
              accuracy: typed.accuracy ?? undefined,
            },
          },
        }),
      ),
  })
  const change = (i: number, part: Partial<Row>) => set({ ...typed, rows: typed.rows.map((r, k) => (k === i ? { ...r, ...part } : r)) })
  return (
    <details className="fold-out">
      <summary>
        <h2>Is it the sensor or the input?</h2>
        <span className="dim"> feed the input in its place, with a decade box or a millivolt source</span>
      </summary>
      <div className="stack">
        <div className="caution">
          <strong>Supply off before the sensor is taken off.</strong> Without its sensor the controller cannot hold anything: keep the
          heater isolated while you feed it.
        </div>
        {!ohms && (
          <Segments
            label={label('lead')}
            value={typed.lead}
            options={choices('lead') as [Lead, string][]}
            onChange={(lead) => set({ ...typed, lead })}
          />
        )}
        <div className="cal">
          <div className="pairs">
            <span />
            <span />
            <span className="head">fed, {unit}</span>
            <span className="head">display</span>
            {typed.rows.map((row, i) => (
              <FedRow key={i} index={i} row={row} unit={unit} onChange={(part) => change(i, part)} />
            ))}
          </div>
          <div className="grid2">
            <NumberField
              label={`${label('accuracy')} (${unit})`}
              value={typed.accuracy}
              onChange={orUnreadable((accuracy) => set({ ...typed, accuracy }))}
              problem={problemOf(ask.error, 'source.accuracy')}
            />
            {unit === 'mV' && (
              <>
                <NumberField
                  label={label('junction_c')}
                  kind="temperature"
                  hint={typed.lead === 'copper' ? 'the controller’s terminals' : 'the source’s terminals'}
                  value={typed.junction_c}
                  onChange={orUnreadable((junction_c) => set({ ...typed, junction_c }))}
                  problem={problemOf(ask.error, 'source.junction_c')}
                />
                <NumberField
                  label={label('known_c')}
                  kind="temperature_difference"
                  value={typed.known_c}
                  onChange={orUnreadable((known_c) => set({ ...typed, known_c }))}
                  problem={problemOf(ask.error, 'source.known_c')}
                />
              </>
            )}
          </div>
        </div>
        <Refused error={ask.error} />
        <div className="row">
          <button className="button quiet" onClick={() => set({ ...typed, rows: [...typed.rows, { feed: null, display_c: null }] })}>
            One more value
          </button>
          <button className="button" disabled={ask.isPending} onClick={() => ask.mutate()}>
            Whose error is it?
          </button>
        </div>
        {ask.data && (
          <div role="status">
            <p>
              <Said>{ask.data.says}</Said>
            </p>
            <ul className="levels">
              {ask.data.points.map((point) => (
                <li key={point.feed}>
                  {point.feed} {ask.data.unit}: the input shows <Fig figure={point.error} /> too much
                </li>
              ))}
            </ul>
          </div>
        )}
      </div>
    </details>
  )
}

function FedRow({ index, row, unit, onChange }: { index: number; row: Row; unit: string; onChange: (part: Partial<Row>) => void }) {
  return (
    <>
      <span className="num dim">{index + 1}</span>
      <span />
      <NumberField bare label={`Fed ${index + 1}, ${unit}`} value={row.feed} onChange={orUnreadable((feed) => onChange({ feed }))} />
      <NumberField
        bare
        label={`Shown ${index + 1}`}
        kind="temperature"
        value={row.display_c}
        onChange={orUnreadable((display_c) => onChange({ display_c }))}
      />
    </>
  )
}
