import type { ElkNode } from 'elkjs/lib/elk-api'
import ELK from 'elkjs/lib/elk-api'
import workerUrl from 'elkjs/lib/elk-worker.min.js?url'
import type { List } from './edits'

export interface Placed {
  width: number
  height: number
  parts: Map<string, { x: number; y: number; width: number; height: number }>
  terminals: Map<string, { x: number; y: number; side: string }>
  wires: Map<number, { x: number; y: number }[]>
}

const PIN = 26
const HEAD = 44
const WIDTH = 128

/** Columns from supply to load, so that small edits do not move everything. */
const COLUMN: Record<string, number> = {
  plug: 0, rcd: 0, rcd_4p: 0, power_module: 1, supply_1ph: 0, supply_split: 0, supply_3ph: 0, supply_dc: 0, breaker: 1, breaker_2p: 1, breaker_3p: 1, fuse: 1, regulator: 1, enclosure: 1, microcontroller: 2, controller_relay: 2, controller_cascade: 2, controller_cascade_ssr: 2, estop: 2, pushbutton: 2, controller_ssr: 2, limiter: 2,
  thermocouple: 3, pt100: 3, pt1000: 3, thermistor: 3, resistor: 3, converter: 3, contactor: 3, contactor_2p: 3, contactor_3p: 3, relay: 4, relay_module: 4, beacon: 5, lamp: 5, ssr: 4, ssr_3p: 4, mosfet: 4, heater: 5, heater_3ph: 5,
}

const engine = new ELK({ workerFactory: () => new Worker(workerUrl) })

const LARGE = 30

/** Parts with many pins are drawn with those in use only. */
const MOST_PINS = 12

/** The list as one circuit sees it: its wires, the parts they join, and of large parts the pins they use. */
export function part(wiring: List, circuit: string): List {
  const wires = circuit === 'all' ? wiring.wires : wiring.wires.filter((w) => w.circuit === circuit || (circuit === 'power' && w.circuit === 'earth'))
  const ends = new Set(wires.flatMap((w) => [w.a, w.b]))
  const used = (name: string) => wiring.wires.some((w) => w.a.startsWith(`${name}.`) || w.b.startsWith(`${name}.`))
  const parts = wiring.parts
    .map((p) => (p.terminals.length > MOST_PINS && used(p.name) ? { ...p, terminals: p.terminals.filter((t) => ends.has(`${p.name}.${t.name}`)) } : p))
    .filter((p) => circuit === 'all' || p.terminals.some((t) => ends.has(`${p.name}.${t.name}`)))
  return { ...wiring, parts, wires }
}

/** The drawing as plain numbers, for a printed sheet. */
export function geometry(placed: Placed, wiring: List) {
  return {
    width: placed.width,
    height: placed.height,
    boxes: wiring.parts.flatMap((p) => {
      const at = placed.parts.get(p.name)
      return at ? [{ name: p.name, title: p.own || p.title, ...at }] : []
    }),
    pins: wiring.parts.flatMap((p) =>
      p.terminals.flatMap((t) => {
        const at = placed.terminals.get(`${p.name}.${t.name}`)
        return at ? [{ label: p.numbers[t.name] ?? t.name, ...at }] : []
      }),
    ),
    lines: wiring.wires.flatMap((w) => {
      const points = placed.wires.get(w.number)
      return points ? [{ number: w.number, points }] : []
    }),
  }
}

/** Lay the connection list out, off the main thread: layered from left to right, orthogonal, pins at fixed places. */
export async function layout(wiring: List): Promise<Placed> {
  const graph: ElkNode = {
    id: 'rig',
    layoutOptions: {
      'elk.algorithm': 'layered',
      'elk.direction': 'RIGHT',
      'elk.edgeRouting': 'ORTHOGONAL',
      'elk.partitioning.activate': 'true',
      'elk.layered.spacing.nodeNodeBetweenLayers': '62',
      'elk.spacing.nodeNode': '26',
      'elk.spacing.edgeEdge': '11',
      'elk.spacing.edgeNode': '14',
      'elk.layered.spacing.edgeEdgeBetweenLayers': '11',
      'elk.layered.spacing.edgeNodeBetweenLayers': '14',
      'elk.layered.considerModelOrder.strategy': 'NODES_AND_EDGES',
      // straighter wires for a rig of usual size; a large one is placed the quick way
      'elk.layered.nodePlacement.strategy': wiring.parts.length > LARGE ? 'BRANDES_KOEPF' : 'NETWORK_SIMPLEX',
      'elk.layered.thoroughness': wiring.parts.length > LARGE ? '1' : '7',
      'elk.layered.crossingMinimization.greedySwitch.type': wiring.parts.length > LARGE ? 'OFF' : 'TWO_SIDED',
      'elk.randomSeed': '1',
    },
    children: wiring.parts.map((p) => {
      const count = (side: string) => p.terminals.filter((t) => t.side === side).length
      return {
        id: p.name,
        width: WIDTH,
        height: HEAD + PIN * Math.max(count('left'), count('right')) + 8,
        layoutOptions: { 'elk.portConstraints': 'FIXED_POS', 'elk.partitioning.partition': String(COLUMN[p.kind] ?? 3) },
        ports: ['left', 'right'].flatMap((side) =>
          p.terminals
            .filter((t) => t.side === side)
            .map((t, i) => ({
              id: `${p.name}.${t.name}`,
              width: 0,
              height: 0,
              x: side === 'left' ? 0 : WIDTH,
              y: HEAD + PIN * i + PIN / 2,
              layoutOptions: { 'elk.port.side': side === 'left' ? 'WEST' : 'EAST' },
            })),
        ),
      }
    }),
    edges: wiring.wires.map((w) => ({ id: String(w.number), sources: [w.a], targets: [w.b] })),
  }
  const start = performance.now()
  const done = await engine.layout(graph)
  performance.measure('wiring layout', { start }) // read by benchmarks/layout.py
  const placed: Placed = { width: done.width ?? 0, height: done.height ?? 0, parts: new Map(), terminals: new Map(), wires: new Map() }
  for (const node of done.children ?? []) {
    const { x = 0, y = 0, width = 0, height = 0 } = node
    placed.parts.set(node.id, { x, y, width, height })
    for (const port of node.ports ?? []) placed.terminals.set(port.id, { x: x + (port.x ?? 0), y: y + (port.y ?? 0), side: port.x ? 'right' : 'left' })
  }
  for (const edge of done.edges ?? []) {
    const section = edge.sections?.[0]
    if (section) placed.wires.set(Number(edge.id), [section.startPoint, ...(section.bendPoints ?? []), section.endPoint])
  }
  return placed
}
