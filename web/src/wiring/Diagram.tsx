import type { Schemas } from '../api/client'
import type { List } from './edits'
import { colourOf } from './colours'
import type { Placed } from './layout'
import { tagPlace } from './tagPlace'

interface Props {
  wiring: List
  placed: Placed
  state: Schemas['StateView'] | undefined
  bad: Set<string>
  chosen: number | null
  first: string | null
  onWire: (number: number) => void
  onTerminal: (terminal: string) => void
  onPart: (name: string) => void
}

/** The connection list drawn: parts with their pins, wires in their real colours with number and letter code. */
export function Diagram({ wiring, placed, state, bad, chosen, first, onWire, onTerminal, onPart }: Props) {
  const live = new Set(state?.live)
  const width = placed.width + 16
  const height = placed.height + 16
  const order = [...wiring.wires].sort((a, b) => Number(a.number === chosen) - Number(b.number === chosen))
  return (
    <div className="diagram">
      <svg viewBox={`-8 -8 ${width} ${height}`} role="group" aria-label={`Wiring diagram: ${wiring.parts.length} parts, ${wiring.wires.length} wires. The list below says the same.`}>
        {order.map((w) => (
          <Wire key={w.number} wire={w} points={placed.wires.get(w.number) ?? []} hot={live.has(w.a) && live.has(w.b)} bad={bad.has(`wire ${w.number}`)} chosen={chosen === w.number} onPick={() => onWire(w.number)} />
        ))}
        {wiring.parts.map((p) => {
          const at = placed.parts.get(p.name)
          if (!at) return null
          const tone = bad.has(p.name) ? 'bad' : state?.energised.includes(p.name) ? 'on' : ''
          return (
            <g key={p.name} className={`part ${tone}`}>
              <rect x={at.x} y={at.y} width={at.width} height={at.height} rx={3} onClick={() => onPart(p.name)} />
              <text className="name" x={at.x + 10} y={at.y + 20}>
                {p.name}
              </text>
              <text className="title" x={at.x + 10} y={at.y + 36}>
                {short(p.own || p.title)}
              </text>
              {p.terminals.map((t) => {
                const id = `${p.name}.${t.name}`
                const pin = placed.terminals.get(id)
                if (!pin) return null
                const left = pin.side === 'left'
                return (
                  <g key={id} className={`terminal ${first === id ? 'first' : ''}`} onClick={() => onTerminal(id)}>
                    <title>{p.numbers[t.name] ? `${id} (${p.numbers[t.name]} on the part)` : id}</title>
                    <circle cx={pin.x} cy={pin.y} r={6} />
                    <text className="pin" x={pin.x + (left ? 11 : -11)} y={pin.y + 5} textAnchor={left ? 'start' : 'end'}>
                      {p.numbers[t.name] ?? t.name}
                    </text>
                  </g>
                )
              })}
            </g>
          )
        })}
        {wiring.wires.map((w) => (
          <Tag key={w.number} wire={w} points={placed.wires.get(w.number) ?? []} />
        ))}
      </svg>
    </div>
  )
}

const short = (title: string) => (title.length > 21 ? `${title.slice(0, 20)}…` : title)

interface WireProps {
  wire: Schemas['WireView']
  points: { x: number; y: number }[]
  hot: boolean
  bad: boolean
  chosen: boolean
  onPick: () => void
}

function Wire({ wire, points, hot, bad, chosen, onPick }: WireProps) {
  if (points.length < 2) return null
  const path = points.map((p, i) => `${i ? 'L' : 'M'}${p.x} ${p.y}`).join('')
  const colour = colourOf(wire.colour)
  return (
    <g className={`wire ${wire.circuit} ${hot ? 'hot' : ''} ${bad ? 'bad' : ''} ${chosen ? 'chosen' : ''}`} onClick={onPick}>
      <title>{`wire ${wire.number}: ${wire.a} to ${wire.b}, ${wire.area_mm2} mm², ${wire.colour}`}</title>
      <path className="halo" d={path} />
      <path className="edge" d={path} />
      <path className="core" d={path} stroke={colour.css} />
      {colour.stripe && <path className="core" d={path} stroke={colour.stripe} strokeDasharray="8 8" />}
    </g>
  )
}

function Tag({ wire, points }: { wire: Schemas['WireView']; points: { x: number; y: number }[] }) {
  if (points.length < 2) return null
  const text = `${wire.number} ${colourOf(wire.colour).code}`
  const at = tagPlace(points, 0.38 + 0.08 * (wire.number % 4))
  return (
    <g className="tag" aria-hidden>
      <rect x={at.x - text.length * 3.5 - 3} y={at.y - 8} width={text.length * 7 + 6} height={16} rx={2} />
      <text x={at.x} y={at.y + 4}>
        {text}
      </text>
    </g>
  )
}
