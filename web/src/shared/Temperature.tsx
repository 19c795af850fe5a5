import { heat } from '../look/heat'
import { usePreferences } from '../shell/preferences'
import { quantity } from '../units/quantity'

interface Props {
  celsius: number | null | undefined
  tinted?: boolean
  bare?: boolean
}

/** A temperature in the unit chosen, tinted by how hot it is where asked. */
export function Temperature({ celsius, tinted, bare }: Props) {
  const { unit, theme } = usePreferences()
  const q = celsius == null ? { text: '–', unit: '' } : quantity(celsius, 'temperature', unit)
  return (
    <>
      <span className="num" style={tinted ? { color: heat(celsius, theme) } : undefined}>
        {q.text}
      </span>
      {!bare && q.unit && <span className="dim"> {q.unit}</span>}
    </>
  )
}
