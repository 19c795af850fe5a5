import type { Schemas } from '../api/client'
import { Said } from '../shared/Said'
import { usePreferences } from '../shell/preferences'
import { useShow } from '../shell/reason'
import { quantity, round, say } from '../units/quantity'

interface Props {
  pieces: Schemas['Piece'][]
  fills: number[]
  over: boolean[]
  worst: (string | null)[]
  pressed: string
  onPress: (key: string) => void
}

/** Each part on the cable, filled as far as it is used. */
export function Chain({ pieces, fills, over, worst, pressed, onPress }: Props) {
  const { unit } = usePreferences()
  const show = useShow()
  return (
    <ol className="chain" aria-label="From plug to sensor">
      {pieces.map((p, i) => {
        const fill = fills[i] ?? 0
        const heater = p.key === 'heater' // at its rating it is as it should be
        const tone = over[i] ? 'over' : fill > 0.9 && !heater ? 'near' : ''
        return (
          <li key={p.key} className={tone}>
            <button
              aria-pressed={pressed === p.key}
              aria-label={`${p.title}: ${say(p.duty.value, p.duty.kind, unit)} of ${say(p.rating, p.duty.kind, unit)}${tone === 'over' ? ', overloaded' : ''}`}
              onClick={() => {
                onPress(p.key === pressed ? '' : p.key)
                show({ figure: p.duty })
              }}
            >
              <span className="room">
                <span className="level" style={{ height: `${Math.min(fill, 1) * 100}%` }} />
              </span>
              <span className="share">{Math.round(fill * 100)}%</span>
            </button>
            {worst[i] && <span className={`badge ${worst[i]}`}>{worst[i]}</span>}
            <b>{p.title}</b>
            <span className="says">
              <Said>{p.says}</Said>
              <br />
              <span className="num">
                {p.duty.kind === 'temperature'
                  ? `${round(p.duty.value, unit).split(' ')[0]}/${round(p.rating, unit)}`
                  : `${quantity(p.duty.value, p.duty.kind, unit).text}/${say(p.rating, p.duty.kind, unit)}`}
              </span>
            </span>
          </li>
        )
      })}
    </ol>
  )
}
