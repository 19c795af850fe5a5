import type { Figure } from '../api/client'
import { usePreferences } from '../shell/preferences'
import { useShow } from '../shell/reason'
import { said } from '../units/message'
import { capital, say } from '../units/quantity'
import { Said } from './Said'

/** A computed figure: press it to see how it was found. */
export function Fig({ figure, bare }: { figure: Figure; bare?: boolean }) {
  const { unit } = usePreferences()
  const show = useShow()
  const least = figure.low === figure.value && figure.high == null
  const text = `${least ? '≥\u202f' : ''}${say(figure.value, figure.kind, unit)}`
  return (
    <button className="fig" onClick={() => show({ figure })} aria-label={`${said(figure.name, unit)}: ${text}; why`}>
      {bare ? text.split(' ')[0] : text}
    </button>
  )
}

/** Figures in a quiet two-column list. */
export function Figures({ figures }: { figures: Figure[] }) {
  return (
    <table className="plain">
      <tbody>
        {figures.map((f) => (
          <tr key={f.name}>
            <td>
              <Said>{capital(f.name)}</Said>
            </td>
            <td className="right">
              <Fig figure={f} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
