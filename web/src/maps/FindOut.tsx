import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need, type Schemas } from '../api/client'
import { useKept } from '../api/kept'
import { NumberField, SelectField, TextField } from '../shared/fields'
import { problemOf, Refused } from '../shared/states'
import { CODINGS, type Row, TABLES } from './data'
import { useWords } from '../units/fields'

interface Props {
  onTake: (row: Row) => void
}

type Looked = Schemas['Answered'][]

/** Reading a device to learn where its values are: what answers, what moves, and what shows what its display shows. */
export function FindOut({ onTake }: Props) {
  const { label } = useWords()
  const [where, setWhere] = useKept<Schemas['ScanInputRequest']>('find out', {
    host: '192.168.1.10',
    port: 502,
    unit_id: 1,
    table: 'holding',
    start: 0,
    count: 100,
  })
  const [shown, setShown] = useState('')
  const [typed, setTyped] = useState<Schemas['TypedInputRequest'][]>([])
  const [looked, setLooked] = useState<Looked>([])
  const set = (part: Partial<typeof where>) => {
    setWhere({ ...where, ...part })
    setTyped([])
  }
  const look = async () => {
    const found = (await need(api.POST('/api/v1/register-maps/scan', { body: where }))).registers
    setLooked(found)
    return found
  }
  const scan = useMutation({ mutationFn: look })
  const compare = useMutation({
    mutationFn: async () => {
      const words = Object.fromEntries((await look()).map((r) => [String(r.address), r.word]))
      const all = [...typed, { shown: shown.replace(',', '.'), words }]
      const found = await need(api.POST('/api/v1/register-maps/guess', { body: { table: where.table ?? 'holding', typed: all } }))
      setTyped(all)
      setShown('')
      return found
    },
  })
  const problem = (field: string) => problemOf(scan.error ?? compare.error, field)
  const busy = scan.isPending || compare.isPending
  const found = typed.length ? compare.data : undefined
  return (
    <section className="findout" aria-label="Find out">
      <h2>Find out</h2>
      <p className="dim">Only reads. Type what the display shows now, and again when it has changed: few places are left.</p>
      <div className="findfields">
        <TextField label="Address of the controller" value={where.host} onChange={(host) => set({ host })} problem={problem('host')} />
        <NumberField
          label={label('port')}
          value={where.port ?? null}
          onChange={(port) => set({ port: port ?? 0 })}
          problem={problem('port')}
        />
        <NumberField
          label={label('unit_id')}
          value={where.unit_id ?? null}
          onChange={(u) => set({ unit_id: u ?? 0 })}
          problem={problem('unit_id')}
        />
        <SelectField label="Table" value={where.table ?? 'holding'} options={TABLES} onChange={(table) => set({ table })} />
        <NumberField
          label={label('start')}
          value={where.start ?? null}
          onChange={(s) => set({ start: s ?? 0 })}
          problem={problem('start')}
        />
        <NumberField
          label={label('count')}
          value={where.count ?? null}
          onChange={(c) => set({ count: c ?? 0 })}
          problem={problem('count')}
        />
      </div>
      <div className="row">
        <button className="button" disabled={busy} onClick={() => scan.mutate()}>
          {scan.isPending ? 'Looking…' : 'What answers?'}
        </button>
        <TextField label={label('shown')} value={shown} onChange={setShown} problem={problem(`typed[${typed.length}].shown`)} />
        <button className="button main" disabled={busy || shown.trim() === ''} onClick={() => compare.mutate()}>
          {compare.isPending ? 'Comparing…' : 'Read and compare'}
        </button>
      </div>
      <Refused error={scan.error ?? compare.error} />
      {found && (
        <div className="stack" role="status">
          <p className={found.sure ? 'headline' : ''}>
            {found.says} Typed so far: {typed.map((t) => t.shown).join(', ')}.
          </p>
          <ul className="ways">
            {found.candidates.slice(0, 12).map((c) => (
              <li key={`${c.address} ${c.coding} ${c.order} ${c.scale}`}>
                <b className="num">{c.notation}</b> {CODINGS[c.coding]}
                {c.words === 2 && `, ${c.order}`}
                {c.scale !== 1 && `, ${c.scale} counts per unit`}
                <button
                  className="button quiet"
                  onClick={() =>
                    onTake({ name: 'reading_c', address: c.address, table: where.table, coding: c.coding, order: c.order, scale: c.scale })
                  }
                >
                  This is the reading
                </button>
              </li>
            ))}
          </ul>
        </div>
      )}
      {looked.length > 0 && (
        <ul className="words" aria-label="Registers that answer">
          {looked.map((r) => (
            <li key={r.address} className={r.moves ? 'moves' : ''}>
              <span>{r.notation}</span> <b className="num">{r.word}</b>
              {r.moves && <em>moves</em>}
            </li>
          ))}
        </ul>
      )}
      {scan.isSuccess && looked.length === 0 && <p className="empty">Nothing in this range answers.</p>}
    </section>
  )
}
