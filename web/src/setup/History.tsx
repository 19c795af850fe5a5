import type { Schemas } from '../api/client'
import { Said } from '../shared/Said'
import { useState } from 'react'
import { SelectField } from '../shared/fields'
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
  const [one, setOne] = useState('')
  const [other, setOther] = useState('0')
  const rows = history.map((h, i) => [String(i), `${when(h.at)}, ${KIND[h.kind] ?? h.kind}`] as [string, string])
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
              <td>
                {KIND[h.kind] ?? h.kind}
                {h.who && <span className="dim">, {h.who}</span>}
              </td>
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
      {history.length > 1 && (
        <>
          <div className="row">
            <SelectField label="Between" value={one} options={[['', 'choose one'], ...rows]} onChange={setOne} />
            <SelectField label="and" value={other} options={rows} onChange={setOther} />
          </div>
          {one && <Between history={history} parameters={parameters} one={Number(one)} other={Number(other)} />}
        </>
      )}
    </section>
  )
}

const KIND: Record<string, string> = { as_found: 'as found', as_left: 'as left' }

/** What differs between two saved sheets. */
function Between({ history, parameters, one, other }: Omit<Props, 'onBack'> & { one: number; other: number }) {
  const { unit } = usePreferences()
  const [from, to] = [Math.max(one, other), Math.min(one, other)].map((row) => valuesAt(history, parameters, row)) as [Values, Values]
  const apart = parameters.filter((p) => from[p.name] !== to[p.name])
  if (!apart.length) return <p>Nothing differs between them.</p>
  return (
    <table className="plain" aria-label="What differs">
      <tbody>
        {apart.map((p) => (
          <tr key={p.name}>
            <td>{p.title}</td>
            <td className="right">{wordsOf(p, from[p.name], unit)}</td>
            <td className="right">{wordsOf(p, to[p.name], unit)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
