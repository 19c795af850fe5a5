import { useEffect, useRef } from 'react'
import { useConductorColours } from '../../shared/conductors'
import type { List } from '../edits'

interface Props {
  wiring: List
  chosen: number | null
  onPick: (number: number) => void
}

const CIRCUIT: Record<string, string> = { power: 'power', control: 'control', sensor: 'sensor', earth: 'earth' }

/** The truth: which terminal goes to which, with what. */
export function WireList({ wiring, chosen, onPick }: Props) {
  const colours = useConductorColours()
  const row = useRef<HTMLTableRowElement>(null)
  useEffect(() => {
    row.current?.scrollIntoView({ block: 'nearest' }) // newer browsers return a promise here, which is no clean-up
  }, [chosen])
  return (
    <div className="wires" tabIndex={0} role="region" aria-label="Connection list">
      <table className="plain">
        <thead>
          <tr>
            <th className="right">No</th>
            <th>From</th>
            <th>To</th>
            <th>Circuit</th>
            <th className="right">mm²</th>
            <th>Colour</th>
          </tr>
        </thead>
        <tbody>
          {wiring.wires.map((w) => (
            <tr key={w.number} ref={w.number === chosen ? row : undefined} className={w.number === chosen ? 'chosen' : ''}>
              <td className="right">
                <button className="fig" onClick={() => onPick(w.number)} aria-label={`Wire ${w.number}`} aria-pressed={w.number === chosen}>
                  {w.number}
                </button>
              </td>
              <td className="num">{w.a}</td>
              <td className="num">{w.b}</td>
              <td className="dim">{CIRCUIT[w.circuit]}</td>
              <td className="right num">{w.area_mm2}</td>
              <td>
                <span className="num">{colours.of(w.colour).code}</span> <span className="dim small">{w.colour}</span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
