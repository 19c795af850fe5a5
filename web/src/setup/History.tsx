import type { Schemas } from '../api/client'
import { Said } from '../shared/Said'
import { usePreferences } from '../shell/preferences'
import { when } from '../shared/when'
import { type Values, wordsOf } from './ParameterTable'

interface Props {
  history: Schemas['SheetChange'][]
  parameters: Schemas['ParameterView'][]
  /** The values as they were when a sheet was saved, to be walked back to. */
  onBack: (values: Values) => void
}

/** The sheet as it was at a row of the history: the present one, every newer change taken back. */
export function valuesAt(history: Props['history'], parameters: Props['parameters'], row: number): Values {
  const values = Object.fromEntries(parameters.map((p) => [p.name, p.value])) as Values
  for (const newer of history.slice(0, row)) Object.assign(values, newer.before)
  return Object.fromEntries(parameters.map((p) => [p.name, values[p.name] ?? p.proposed])) as Values
}

/** Every saved sheet against the one before it. */
export function History({ history, parameters, onBack }: Props) {
  const { unit } = usePreferences()
  if (!history.length) return null
  const of = (name: string) => parameters.find((p) => p.name === name)
  return (
    <section>
      <h2>As found, as left</h2>
      <table className="plain past">
        <tbody>
          {history.map((h, i) => (
            <tr key={h.at}>
              <td style={{ whiteSpace: 'nowrap' }}>{when(h.at)}</td>
              <td>{h.kind === 'as_found' ? 'as found' : 'as left'}</td>
              <td>
                {i === history.length - 1
                  ? `first sheet, ${Object.keys(h.after).length} values`
                  : Object.keys(h.after)
                      .map((n) => `${of(n)?.title ?? n}: ${wordsOf(of(n), h.before[n], unit)} → ${wordsOf(of(n), h.after[n], unit)}`)
                      .join(' · ') || 'nothing changed'}
              </td>
              <td className="dim">
                <Said>{h.why}</Said>
              </td>
              <td className="right">
                {i > 0 && (
                  <button className="button quiet" onClick={() => onBack(valuesAt(history, parameters, i))}>
                    Back to this
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}
