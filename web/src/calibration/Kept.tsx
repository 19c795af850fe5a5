import type { Rig } from '../api/client'
import { day } from '../shared/when'
import { usePreferences } from '../shell/preferences'
import { say } from '../units/quantity'
import type { Compared } from './draft'

/** Every comparison, with its page to print. */
export function Kept({ rig, data }: { rig: Rig; data: Compared }) {
  const { unit } = usePreferences()
  if (!data.rows.length) return null
  const degrees = (c: number) => say(c, 'temperature_difference', unit)
  return (
    <details className="fold-out">
      <summary>
        <h2>Comparisons on paper</h2>
        <span className="dim"> {data.rows.length} of them</span>
      </summary>
      <ul className="kept">
        {data.rows.map((row) => (
          <li key={row.id}>
            {day(row.at)}, {row.reference}: off by {degrees(row.error_c)} ± {degrees(row.uncertainty_c)}.{' '}
            <a href={`/api/v1/rigs/${rig.slug}/calibration/${row.id}.pdf?unit=${unit}`} target="_blank" rel="noreferrer">
              Its page
            </a>
          </li>
        ))}
      </ul>
      <p>
        <a href={`/api/v1/rigs/${rig.slug}/calibration/label.pdf?unit=${unit}`} target="_blank" rel="noreferrer">
          A label for the rig
        </a>{' '}
        (with a code that opens this page at the address you see now) ·{' '}
        <a href={`/api/v1/rigs/${rig.slug}/calibration.csv`}>All of them as a table (CSV, °C)</a>
      </p>
    </details>
  )
}
