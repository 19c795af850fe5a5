import { useEffect, useRef } from 'react'
import type { Schemas } from '../../api/client'
import { useConductorColours } from '../../shared/conductors'
import type { List } from '../edits'
import type { Box, Flag, Placed } from './graph'
import type { At } from './tags'

export interface Picking {
  state: Schemas['StateView'] | undefined
  bad: Set<string>
  /** What somebody pressed elsewhere and now looks for here. */
  sought: string
  chosen: number | null
  first: string | null
  onWire: (number: number) => void
  onTerminal: (terminal: string) => void
  onPart: (name: string) => void
}

interface Props extends Picking {
  wiring: List
  placed: Placed
  /** Pixels of the screen for one of the drawing. */
  scale: number
}

const MARGIN = 8

/** One drawing of the connection list: parts with their pins, wires in their real colours with number and letter code. */
export function Diagram({ wiring, placed, scale, state, bad, sought, chosen, first, onWire, onTerminal, onPart }: Props) {
  const drawing = useRef<SVGSVGElement>(null)
  const colours = useConductorColours()
  const live = new Set(state?.live)
  const [width, height] = [placed.width + 2 * MARGIN, placed.height + 2 * MARGIN]
  const wires = wiring.wires
    .filter((w) => placed.wires.has(w.number))
    .sort((a, b) => Number(a.number === chosen) - Number(b.number === chosen))
  const byNumber = new Map(wiring.wires.map((w) => [w.number, w]))
  const parts = new Map(wiring.parts.map((p) => [p.name, p]))
  useEffect(() => {
    if (!sought && chosen === null) return
    drawing.current?.querySelector('.part.bad, .wire.bad, .wire.chosen')?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
  }, [sought, chosen])
  const tone = (name: string) => (bad.has(name) ? 'bad' : state?.energised.includes(name) || state?.turned.includes(name) ? 'on' : '')
  return (
    <svg
      ref={drawing}
      viewBox={`${-MARGIN} ${-MARGIN} ${width} ${height}`}
      style={{ width: width * scale }}
      role="group"
      aria-label={`Wiring diagram, ${placed.view}: ${placed.boxes.length} parts, ${placed.wires.size} wires. The list below says the same.`}
    >
      {placed.stubs.map((points, i) => (
        <path key={i} className="stub" d={pathOf(points)} />
      ))}
      {wires.map((w) => (
        <Wire
          key={w.number}
          wire={w}
          points={placed.wires.get(w.number)!}
          colour={colours.of(w.colour)}
          hot={live.has(w.a) && live.has(w.b)}
          bad={bad.has(`wire ${w.number}`)}
          chosen={chosen === w.number}
          onPick={() => onWire(w.number)}
        />
      ))}
      {placed.boxes.map((box) => (
        <Part
          key={box.name}
          box={box}
          part={parts.get(box.name)!}
          tone={tone(box.name)}
          first={first}
          onTerminal={onTerminal}
          onPart={onPart}
        />
      ))}
      {wires.map((w) => (
        <Tag key={w.number} words={`${w.number} ${colours.of(w.colour).code}`} at={placed.tags.get(w.number)} />
      ))}
      {placed.flags.map((flag) => (
        <FlagTag
          key={flag.terminal}
          flag={flag}
          wires={flag.numbers.map((n) => byNumber.get(n)!)}
          bad={bad}
          chosen={chosen}
          codes={[...new Set(flag.numbers.map((n) => colours.of(byNumber.get(n)!.colour).code))].join(' ')}
          onWire={onWire}
        />
      ))}
    </svg>
  )
}

const short = (title: string) => (title.length > 19 ? `${title.slice(0, 18).trimEnd()}…` : title)
const pathOf = (points: At[]) => points.map((p, i) => `${i ? 'L' : 'M'}${p.x} ${p.y}`).join('')

interface PartProps extends Pick<Picking, 'first' | 'onTerminal' | 'onPart'> {
  box: Box
  part: Schemas['PartView']
  tone: string
}

function Part({ box, part, tone, first, onTerminal, onPart }: PartProps) {
  return (
    <g className={`part ${tone}`}>
      <rect x={box.x} y={box.y} width={box.width} height={box.height} rx={3} onClick={() => onPart(part.name)} />
      <text className="name" x={box.x + 10} y={box.y + 20}>
        {part.name}
      </text>
      <text className="title" x={box.x + 10} y={box.y + 36}>
        {short(part.own || part.title)}
      </text>
      {box.pins.map((pin) => {
        const name = pin.terminal.slice(part.name.length + 1)
        const number = part.numbers[name]
        return (
          <g key={pin.terminal} className={`terminal ${first === pin.terminal ? 'first' : ''}`} onClick={() => onTerminal(pin.terminal)}>
            <title>{number ? `${pin.terminal} (${number} on the part)` : pin.terminal}</title>
            <circle cx={pin.x} cy={pin.y} r={6} />
            <text className="pin" x={pin.x + (pin.left ? 11 : -11)} y={pin.y + 5} textAnchor={pin.left ? 'start' : 'end'}>
              {number ?? name}
            </text>
          </g>
        )
      })}
    </g>
  )
}

interface WireProps {
  wire: Schemas['WireView']
  points: At[]
  colour: Schemas['ConductorColour']
  hot: boolean
  bad: boolean
  chosen: boolean
  onPick: () => void
}

const saying = (w: Schemas['WireView']) => `wire ${w.number}: ${w.a} to ${w.b}, ${w.area_mm2} mm², ${w.colour}`

function Wire({ wire, points, colour, hot, bad, chosen, onPick }: WireProps) {
  if (points.length < 2) return null
  const path = pathOf(points)
  return (
    <g className={`wire ${wire.circuit} ${hot ? 'hot' : ''} ${bad ? 'bad' : ''} ${chosen ? 'chosen' : ''}`} onClick={onPick}>
      <title>{saying(wire)}</title>
      <path className="halo" d={path} />
      <path className="edge" d={path} />
      <path className="core" d={path} stroke={colour.shown} />
      {colour.stripe && <path className="core" d={path} stroke={colour.stripe} strokeDasharray="8 8" />}
    </g>
  )
}

function Tag({ words, at }: { words: string; at: At | undefined }) {
  if (!at) return null
  return (
    <g className="tag" aria-hidden>
      <rect x={at.x - words.length * 3.5 - 3} y={at.y - 8} width={words.length * 7 + 6} height={16} rx={2} />
      <text x={at.x} y={at.y + 4}>
        {words}
      </text>
    </g>
  )
}

interface FlagProps extends Pick<Picking, 'bad' | 'chosen' | 'onWire'> {
  flag: Flag
  wires: Schemas['WireView'][]
  codes: string
}

/** Where wires of a net with many of them leave the drawing: their numbers, which stand at their other ends too. */
function FlagTag({ flag, wires, codes, bad, chosen, onWire }: FlagProps) {
  const next = wires[(wires.findIndex((w) => w.number === chosen) + 1) % wires.length]!
  const tone = wires.some((w) => w.number === chosen) ? 'chosen' : wires.some((w) => bad.has(`wire ${w.number}`)) ? 'bad' : ''
  return (
    <g className={`flag ${tone}`} onClick={() => onWire(next.number)}>
      <title>{wires.map(saying).join('\n')}</title>
      <rect x={flag.x} y={flag.y} width={flag.width} height={flag.height} rx={2} />
      <text x={flag.x + flag.width / 2} y={flag.y + 13}>
        {flag.numbers.join(' ')} {codes}
      </text>
    </g>
  )
}
