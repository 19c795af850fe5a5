import type { Figure } from '../api/client'
import { usePreferences } from '../shell/preferences'
import { useShow } from '../shell/reason'
import { say } from '../units/quantity'

/** A computed figure: press it to see how it was found. */
export function Fig({ figure, bare }: { figure: Figure; bare?: boolean }) {
  const { unit } = usePreferences()
  const show = useShow()
  const text = say(figure.value, figure.kind, unit)
  return (
    <button className="fig" onClick={() => show({ figure })} aria-label={`${figure.name}: ${text}; why`}>
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
            <td>{f.name[0]?.toUpperCase() + f.name.slice(1)}</td>
            <td className="right">
              <Fig figure={f} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
