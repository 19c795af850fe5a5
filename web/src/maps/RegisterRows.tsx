import type { Schemas } from '../api/client'
import { ListField, NumberField, SelectField, TextField } from '../shared/fields'
import { problemOf, Wrong } from '../shared/states'
import { CODINGS, isLong, ORDERS, type Row, TABLES } from './data'
import { useWords } from '../units/fields'

interface Props {
  names: Schemas['NameOption'][]
  rows: Row[]
  places: Schemas['Place'][]
  error: unknown
  onRows: (rows: Row[]) => void
}

/** Every value with its place and coding; what is rare stands under “more”. */
export function RegisterRows({ names, rows, places, error, onRows }: Props) {
  const { label } = useWords()
  const say = (name: string) => names.find((n) => n.name === name)?.words ?? name
  const change = (i: number, part: Partial<Row>) => onRows(rows.map((r, k) => (k === i ? clean({ ...r, ...part }) : r)))
  const free = names.map((n) => n.name).filter((n) => !rows.some((r) => r.name === n))
  return (
    <div className="registers">
      {rows.map((row, i) => {
        const problem = (field: string) => problemOf(error, `registers[${i}].${field}`)
        const place = places.find((p) => p.name === row.name)
        const bits = row.table === 'coil' || row.table === 'discrete'
        const wrong = [
          'name',
          'order',
          'bit',
          'codes',
          'choices',
          'no_value',
          'low',
          'high',
          'endurance',
          'decimals_from',
          'unit_from',
          'writable',
        ]
          .map(problem)
          .filter((p) => p !== undefined)
        return (
          <fieldset key={i}>
            <legend className="visually-hidden">{say(row.name)}</legend>
            <div>
              <SelectField
                label="Value"
                value={row.name}
                options={[row.name, ...free].map((n) => [n, say(n)] as const)}
                onChange={(name) => change(i, { name })}
              />
            </div>
            <div>
              <TextField
                label={label('address')}
                value={String(row.address)}
                hint={place ? `${place.address} = ${place.notation}` : 'from 0, or as 40001'}
                problem={problem('address')}
                onChange={(text) => change(i, { address: /^\d{1,4}$/.test(text) ? Number(text) : text })}
              />
            </div>
            <div>
              <SelectField
                label="Table"
                value={row.table ?? 'holding'}
                options={TABLES}
                onChange={(table) => change(i, { table, coding: undefined })}
              />
            </div>
            <div>
              {!bits && (
                <SelectField
                  label={label('coding')}
                  value={row.coding ?? 'int16'}
                  options={Object.entries(CODINGS)}
                  problem={problem('coding')}
                  onChange={(coding) => change(i, { coding })}
                />
              )}
            </div>
            <div>
              {isLong(row.coding) && (
                <SelectField label="Order" value={row.order ?? 'ABCD'} options={ORDERS} onChange={(order) => change(i, { order })} />
              )}
            </div>
            <div>
              {!bits && row.coding !== 'bit' && !row.choices && (
                <NumberField
                  label={label('scale')}
                  value={row.scale ?? 1}
                  problem={problem('scale')}
                  onChange={(scale) => change(i, { scale: scale ?? undefined })}
                />
              )}
            </div>
            <div>
              {names.find((n) => n.name === row.name)?.degrees && (
                <SelectField
                  label="Unit"
                  value={row.unit ?? 'C'}
                  options={[
                    ['C', '°C'],
                    ['F', '°F'],
                  ]}
                  onChange={(unit) => change(i, { unit })}
                />
              )}
            </div>
            {(row.table ?? 'holding') !== 'input' && row.table !== 'discrete' && (
              <label className="check">
                <input type="checkbox" checked={!!row.writable} onChange={(e) => change(i, { writable: e.target.checked || undefined })} />{' '}
                written
              </label>
            )}
            <button
              className="button quiet"
              aria-label={`Take out ${say(row.name)}`}
              onClick={() => onRows(rows.filter((_, k) => k !== i))}
            >
              Take out
            </button>
            <details>
              <summary>more</summary>
              <div className="rare">
                <ListField
                  label="Words of 0, 1, 2…"
                  value={row.choices ?? []}
                  onChange={(words) => change(i, { choices: words.length ? words : undefined })}
                />
                <ListField
                  label="or of these numbers"
                  value={(row.codes ?? []).map(String)}
                  onChange={(words) => change(i, { codes: numbersOf(words) })}
                />
                <ListField
                  label="Numbers that mean no value"
                  value={(row.no_value ?? []).map(String)}
                  onChange={(words) => change(i, { no_value: numbersOf(words) })}
                />
                {row.coding === 'bit' && (
                  <NumberField label="Bit" value={row.bit ?? 0} onChange={(bit) => change(i, { bit: bit ?? undefined })} />
                )}
                <SelectField
                  label="Decimals are in"
                  value={row.decimals_from ?? ''}
                  options={[['', 'no register'], ...rows.filter((r) => r.name === 'decimals').map((r) => [r.name, say(r.name)] as const)]}
                  onChange={(v) => change(i, { decimals_from: v || undefined })}
                />
                <SelectField
                  label="Unit is in"
                  value={row.unit_from ?? ''}
                  options={[
                    ['', 'no register'],
                    ...rows.filter((r) => r.name === 'display_unit').map((r) => [r.name, say(r.name)] as const),
                  ]}
                  onChange={(v) => change(i, { unit_from: v || undefined })}
                />
                {row.writable && (
                  <>
                    <NumberField label="Takes at least" value={row.low ?? null} onChange={(low) => change(i, { low: low ?? undefined })} />
                    <NumberField label="at most" value={row.high ?? null} onChange={(high) => change(i, { high: high ?? undefined })} />
                    <label className="check">
                      <input
                        type="checkbox"
                        checked={!!row.stored}
                        onChange={(e) => change(i, { stored: e.target.checked || undefined, endurance: undefined })}
                      />{' '}
                      in memory that wears out
                    </label>
                    {row.stored && (
                      <NumberField
                        label="It stands so many writes"
                        value={row.endurance ?? null}
                        hint="empty where the manual does not say"
                        onChange={(n) => change(i, { endurance: n ?? undefined })}
                      />
                    )}
                    <TextField label="Keeps running" value={row.keeps ?? ''} onChange={(v) => change(i, { keeps: v || undefined })} />
                  </>
                )}
              </div>
            </details>
            {wrong.map((p) => (
              <Wrong key={p.field} problem={p} />
            ))}
          </fieldset>
        )
      })}
      <button
        className="button"
        disabled={!free.length}
        onClick={() => onRows([...rows, { name: free[0]!, address: next(rows), table: rows.at(-1)?.table, coding: 'int16' }])}
      >
        One more value
      </button>
    </div>
  )
}

/** A row without what was emptied. */
const clean = (row: Row): Row => Object.fromEntries(Object.entries(row).filter(([, v]) => v !== undefined)) as unknown as Row

/** Words that are no whole numbers stay as they are: the server says which it cannot take. */
const numbersOf = (words: string[]) => (words.length ? words.map((w) => (/^-?\d+$/.test(w) ? Number(w) : w)) : undefined)

/** The address after the last row's. */
const next = (rows: Row[]) => {
  const last = rows.at(-1)
  if (!last) return 0
  const step = isLong(last.coding) ? 2 : 1
  return typeof last.address === 'number' ? last.address + step : String(Number(last.address) + step).padStart(last.address.length, '0')
}
