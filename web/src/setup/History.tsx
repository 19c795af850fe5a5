import type { Schemas } from '../api/client'
import { Said } from '../shared/Said'
import { usePreferences } from '../shell/preferences'
import { when } from '../shared/when'
import { wordsOf } from './ParameterTable'

interface Props {
  history: Schemas['SheetChange'][]
  parameters: Schemas['ParameterView'][]
}

/** Every saved sheet against the one before it. */
export function History({ history, parameters }: Props) {
  const { unit } = usePreferences()
  if (!history.length) return null
  const of = (name: string) => parameters.find((p) => p.name === name)
  return (
    <section>
      <h2>As found, as left</h2>
      <table className="plain">
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
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}
