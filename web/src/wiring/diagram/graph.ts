import type { ElkExtendedEdge, ElkNode, ElkPort } from 'elkjs/lib/elk-api'
import type { Schemas } from '../../api/client'
import type { List } from '../edits'
import { type At, placeTags } from './tags'

type Drawing = Schemas['CircuitDrawing']

export interface Box extends At {
  name: string
  width: number
  height: number
  pins: (At & { terminal: string; left: boolean })[]
}
export interface Flag extends At {
  terminal: string
  numbers: number[]
  width: number
  height: number
}
export interface Placed {
  view: Drawing['view']
  width: number
  height: number
  boxes: Box[]
  wires: Map<number, At[]>
  flags: Flag[]
  /** From each flag to its terminal. */
  stubs: At[][]
  /** Where the number of each wire stands. */
  tags: Map<number, At>
}

const PIN = 26
const HEAD = 44
const WIDTH = 128
const FLAG_HEIGHT = 18
const LETTER = 7.6
/** Letters of a colour's code and the space before it. */
const CODE = 3
/** Wires further apart, so that a large drawing is read as easily as a small one. */
const OPTIONS = {
  'elk.algorithm': 'layered',
  'elk.direction': 'RIGHT',
  'elk.edgeRouting': 'ORTHOGONAL',
  'elk.partitioning.activate': 'true',
  'elk.layered.spacing.nodeNodeBetweenLayers': '52',
  'elk.spacing.nodeNode': '22',
  'elk.spacing.edgeEdge': '11',
  'elk.spacing.edgeNode': '14',
  'elk.layered.spacing.edgeEdgeBetweenLayers': '11',
  'elk.layered.spacing.edgeNodeBetweenLayers': '14',
  'elk.layered.considerModelOrder.strategy': 'NODES_AND_EDGES',
  'elk.layered.nodePlacement.strategy': 'NETWORK_SIMPLEX',
  'elk.layered.thoroughness': '40',
  'elk.separateConnectedComponents': 'false',
  'elk.randomSeed': '1',
}

interface End {
  terminal: string
  column: number
  left: boolean
}

/** What flags and turning points stand between the columns of parts. */
const between = (end: End) => 2 * end.column + (end.left ? 0 : 2)

/**
 * A drawing as a graph to lay out: parts in their columns with pins at fixed places, wires from left to right. A wire between two
 * pins on the same side of one column turns at a point beside it; wires drawn as flags end in one at each terminal.
 */
export function graphOf(wiring: List, drawing: Drawing): ElkNode {
  const kinds = new Map(wiring.parts.map((p) => [p.name, p]))
  const ends = new Map<string, End>()
  const children: ElkNode[] = drawing.places.map((place) => {
    const part = kinds.get(place.name)!
    const count = { left: 0, right: 0 }
    const ports: ElkPort[] = part.terminals
      .filter((t) => place.terminals.includes(t.name))
      .map((t) => {
        const id = `${place.name}.${t.name}`
        const left = t.side === 'left'
        ends.set(id, { terminal: id, column: place.column, left })
        return {
          id,
          width: 0,
          height: 0,
          x: left ? 0 : WIDTH,
          y: HEAD + PIN * count[left ? 'left' : 'right']++ + PIN / 2,
          layoutOptions: { 'elk.port.side': left ? 'WEST' : 'EAST' },
        }
      })
    return {
      id: place.name,
      width: WIDTH,
      height: HEAD + PIN * Math.max(count.left, count.right) + 8,
      layoutOptions: { 'elk.portConstraints': 'FIXED_POS', 'elk.partitioning.partition': String(2 * place.column + 1) },
      ports,
    }
  })
  const edges: ElkExtendedEdge[] = []
  const beside = (id: string, end: End, width: number, height: number) => {
    children.push({ id, width, height, layoutOptions: { 'elk.partitioning.partition': String(between(end)) } })
  }
  const join = (id: string, terminal: string, node: string, left: boolean) =>
    edges.push(left ? { id, sources: [node], targets: [terminal] } : { id, sources: [terminal], targets: [node] })
  const drawn = new Set(drawing.lines)
  for (const wire of wiring.wires.filter((w) => drawn.has(w.number))) {
    const [a, b] = [ends.get(wire.a), ends.get(wire.b)]
    if (!a || !b) continue
    if (a.column === b.column && a.left === b.left) {
      beside(`turn ${wire.number}`, a, 0, 0)
      join(`${wire.number} a`, wire.a, `turn ${wire.number}`, a.left)
      join(`${wire.number} b`, wire.b, `turn ${wire.number}`, b.left)
    } else if (a.column <= b.column) edges.push({ id: String(wire.number), sources: [wire.a], targets: [wire.b] })
    else edges.push({ id: String(wire.number), sources: [wire.b], targets: [wire.a] })
  }
  for (const [terminal, numbers] of flagged(wiring, drawing)) {
    const end = ends.get(terminal)
    if (!end) continue
    const colours = new Set(wiring.wires.filter((w) => numbers.includes(w.number)).map((w) => w.colour))
    beside(`flag ${terminal}`, end, (numbers.join(' ').length + CODE * colours.size) * LETTER + 8, FLAG_HEIGHT)
    join(`stub ${terminal}`, terminal, `flag ${terminal}`, end.left)
  }
  return { id: 'drawing', layoutOptions: OPTIONS, children, edges }
}

/** The numbers of the wires that end in a flag, by terminal. */
function flagged(wiring: List, drawing: Drawing): Map<string, number[]> {
  const numbers = new Set(drawing.flags)
  const found = new Map<string, number[]>()
  for (const wire of wiring.wires) {
    if (!numbers.has(wire.number)) continue
    for (const end of [wire.a, wire.b]) found.set(end, [...(found.get(end) ?? []), wire.number])
  }
  return found
}

/** What the layout found, as boxes, lines and flags in one drawing's own units. */
export function placedOf(wiring: List, drawing: Drawing, done: ElkNode): Placed {
  const flags = flagged(wiring, drawing)
  const placed: Placed = {
    view: drawing.view,
    width: done.width ?? 0,
    height: done.height ?? 0,
    boxes: [],
    wires: new Map(),
    flags: [],
    stubs: [],
    tags: new Map(),
  }
  for (const { id, x = 0, y = 0, width = 0, height = 0, ports } of done.children ?? []) {
    if (id.startsWith('turn ')) continue
    if (id.startsWith('flag ')) {
      const terminal = id.slice(5)
      placed.flags.push({ terminal, numbers: flags.get(terminal)!, x, y, width, height })
      continue
    }
    placed.boxes.push({
      name: id,
      x,
      y,
      width,
      height,
      pins: (ports ?? []).map((p) => ({ terminal: p.id, x: x + (p.x ?? 0), y: y + (p.y ?? 0), left: !p.x })),
    })
  }
  const route = (id: string) => {
    const section = done.edges?.find((e) => e.id === id)?.sections?.[0]
    return section ? [section.startPoint, ...(section.bendPoints ?? []), section.endPoint] : []
  }
  for (const edge of done.edges ?? []) {
    const [number, half] = edge.id.split(' ')
    if (number === 'stub') placed.stubs.push(route(edge.id))
    else if (half === 'a') placed.wires.set(Number(number), turned(route(edge.id), route(`${number} b`)))
    else if (half === undefined) placed.wires.set(Number(number), route(edge.id))
  }
  const sizes = new Map(wiring.wires.map((w) => [w.number, LETTER * `${w.number} GNYE ${w.area_mm2}`.length]))
  placed.tags = placeTags(
    [...placed.wires].map(([number, points]) => ({ number, points, width: sizes.get(number) ?? 0 })),
    [...placed.boxes, ...placed.flags],
  )
  return placed
}

const same = (p?: At, q?: At) => p && q && Math.abs(p.x - q.x) < 1 && Math.abs(p.y - q.y) < 1

/** Two pieces that meet at a turning point, as one line from terminal to terminal; it turns where they part already. */
function turned(a: At[], b: At[]): At[] {
  const [first, second] = same(a[0], b[0]) ? [a, b] : [a.toReversed(), b.toReversed()]
  const line = [...first.toReversed(), ...second.slice(1)]
  for (let i = 1; i < line.length - 1; i++) {
    const [before, here, after] = [line[i - 1]!, line[i]!, line[i + 1]!]
    const back = (before.x - here.x) * (after.x - here.x) + (before.y - here.y) * (after.y - here.y) > 0
    if (back) line.splice(i--, 1) // out and back the same way
    if (i < 0) i = 0
  }
  return line
}

/** How often wires cross: the fewer, the easier to follow. */
export function crossings(placed: Placed): number {
  const flat: [number, number, number][] = []
  const upright: [number, number, number][] = []
  for (const points of [...placed.wires.values(), ...placed.stubs]) {
    points.slice(1).forEach((p, i) => {
      const q = points[i]!
      if (p.y === q.y) flat.push([Math.min(p.x, q.x), Math.max(p.x, q.x), p.y])
      else upright.push([Math.min(p.y, q.y), Math.max(p.y, q.y), p.x])
    })
  }
  return upright.reduce(
    (sum, [from, to, x]) => sum + flat.filter(([left, right, y]) => left < x && x < right && from < y && y < to).length,
    0,
  )
}

/** A drawing as plain numbers, for a printed sheet. */
export function geometry(placed: Placed, wiring: List): Schemas['DrawnRequest'] {
  const parts = new Map(wiring.parts.map((p) => [p.name, p]))
  const label = (terminal: string) => {
    const [part, name] = terminal.split('.') as [string, string]
    return parts.get(part)?.numbers[name] ?? name
  }
  return {
    title: placed.view === 'all' ? 'wiring' : placed.view === 'sensor' ? 'sensors' : placed.view,
    width: placed.width,
    height: placed.height,
    boxes: placed.boxes.map(({ name, x, y, width, height }) => ({
      name,
      title: parts.get(name)!.own || parts.get(name)!.title,
      x,
      y,
      width,
      height,
    })),
    pins: placed.boxes.flatMap((b) => b.pins.map((p) => ({ label: label(p.terminal), x: p.x, y: p.y, side: p.left ? 'left' : 'right' }))),
    lines: [
      ...[...placed.wires].map(([number, points]) => ({ number, points, tag: placed.tags.get(number) ?? null })),
      ...placed.stubs.map((points) => ({ number: 0, points, tag: null })),
    ],
    flags: placed.flags.map(({ numbers, x, y, width, height }) => ({ numbers, x, y, width, height })),
  }
}
