import type { Quantity } from '../api/client'
import { usePreferences } from '../shell/preferences'
import { said } from '../units/message'
import { absolute, difference, fixed, quantity, significant, type Unit } from '../units/quantity'
import type { Answer } from './data'

type Table = NonNullable<Answer['table']>

/** Numbers to work through at the bench, with a column to tick; printed alone. */
export function NumberTable({ table }: { table: Table }) {
  const { unit } = usePreferences()
  return (
    <div className="ask-table">
      <table className="plain">
        <thead>
          <tr>
            {table.columns.map((c) => (
              <th key={c.label} className="right">
                {[said(c.label, unit), quantity(1, c.kind, unit).unit].filter(Boolean).join(', ')}
              </th>
            ))}
            <th>Seen</th>
          </tr>
        </thead>
        <tbody>
          {table.rows.map((row, i) => (
            <tr key={i}>
              {table.columns.map((c, k) => (
                <td key={c.label} className="right num">
                  {cell(row[k]!, c.kind, unit)}
                </td>
              ))}
              <td />
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}

/** As many digits as a bench instrument shows: a table is read number by number, not rounded to taste. */
function cell(value: number, kind: Quantity, unit: Unit): string {
  if (kind === 'temperature') return fixed(absolute(value, unit), 1)
  if (kind === 'temperature_difference') return fixed(difference(value, unit), 3)
  if (kind === 'millivolts') return fixed(value, 3)
  if (kind === 'resistance') return fixed(value, value < 1000 ? 2 : 0)
  return significant(value)
}
