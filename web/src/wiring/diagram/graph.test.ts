import ELK from 'elkjs/lib/elk.bundled.js'
import { expect, test } from 'vitest'
import type { Schemas } from '../../api/client'
import type { List } from '../edits'
import { crossings, geometry, graphOf, placedOf } from './graph'

type Drawing = Schemas['CircuitDrawing']

/** A supply, breakers fed one from the next at the same side, a contactor and a heater behind each. */
function zones(count: number): { wiring: List; drawing: Drawing } {
  const parts: { name: string; left: string[]; right: string[]; column: number }[] = [
    { name: 'Q0', left: [], right: ['L', 'N'], column: 0 },
  ]
  const wires: [string, string][] = []
  for (let i = 1; i <= count; i++) {
    parts.push(
      { name: `F${i}`, left: ['1'], right: ['2'], column: 1 },
      { name: `K${i}`, left: ['1', 'A1'], right: ['2', 'A2'], column: 2 },
      { name: `E${i}`, left: ['1', '2'], right: [], column: 3 },
    )
    wires.push(
      [i === 1 ? 'Q0.L' : `F${i - 1}.1`, `F${i}.1`],
      [`F${i}.2`, `K${i}.1`],
      [`E${i}.1`, `K${i}.2`],
      [i === 1 ? 'Q0.N' : `E${i - 1}.2`, `E${i}.2`],
    )
  }
  const wiring = {
    parts: parts.map((p) => ({
      name: p.name,
      title: p.name,
      own: '',
      numbers: {},
      terminals: [...p.left.map((name) => ({ name, side: 'left' })), ...p.right.map((name) => ({ name, side: 'right' }))],
    })),
    wires: wires.map(([a, b], i) => ({ number: i + 1, a, b, circuit: 'power', colour: 'brown', area_mm2: 1.5 })),
  } as unknown as List
  const neutral = wires.flatMap(([, b], i) => (b.endsWith('.2') && b.startsWith('E') ? [i + 1] : []))
  const places = parts.map((p) => ({ name: p.name, column: p.column, terminals: [...p.left, ...p.right] }))
  return {
    wiring,
    drawing: { view: 'power', places, lines: wiring.wires.map((w) => w.number).filter((n) => !neutral.includes(n)), flags: neutral },
  }
}

const laidOut = async ({ wiring, drawing }: ReturnType<typeof zones>) =>
  placedOf(wiring, drawing, await new ELK().layout(graphOf(wiring, drawing)))
const pinsOf = (placed: Awaited<ReturnType<typeof laidOut>>) => new Map(placed.boxes.flatMap((b) => b.pins.map((p) => [p.terminal, p])))

test('every wire runs from its one terminal to its other, also between two pins on the same side', async () => {
  const given = zones(3)
  const placed = await laidOut(given)
  const pins = pinsOf(placed)
  for (const number of given.drawing.lines) {
    const wire = given.wiring.wires[number - 1]!
    const points = placed.wires.get(number)!
    const ends = [points[0]!, points.at(-1)!].map((p) => `${Math.round(p.x)},${Math.round(p.y)}`).sort()
    expect(ends).toEqual([wire.a, wire.b].map((t) => `${Math.round(pins.get(t)!.x)},${Math.round(pins.get(t)!.y)}`).sort())
  }
})

test('no wire goes out and comes back over itself', async () => {
  const placed = await laidOut(zones(4))
  for (const points of placed.wires.values()) {
    points.slice(2).forEach((after, i) => {
      const [before, here] = [points[i]!, points[i + 1]!]
      expect((before.x - here.x) * (after.x - here.x) + (before.y - here.y) * (after.y - here.y)).toBeLessThanOrEqual(0.01)
    })
  }
})

test('columns stand from left to right, and a net left to flags has one at each of its terminals', async () => {
  const placed = await laidOut(zones(3))
  const left = (name: string) => placed.boxes.find((b) => b.name === name)!.x
  expect([left('Q0'), left('F2'), left('K2'), left('E2')]).toEqual(
    [left('Q0'), left('F2'), left('K2'), left('E2')].toSorted((a, b) => a - b),
  )
  expect(placed.flags.map((f) => [f.terminal, f.numbers])).toEqual(
    expect.arrayContaining([
      ['Q0.N', [4]],
      ['E1.2', [4, 8]],
      ['E3.2', [12]],
    ]),
  )
  expect(placed.stubs).toHaveLength(4)
  expect([...placed.tags.keys()].sort()).toEqual([...placed.wires.keys()].sort())
})

test('one more zone leaves the others where they were, in their order', async () => {
  const [before, after] = [await laidOut(zones(3)), await laidOut(zones(4))]
  const order = (placed: typeof before) =>
    placed.boxes
      .filter((b) => /^F[123]$/.test(b.name))
      .toSorted((a, b) => a.y - b.y)
      .map((b) => b.name)
  expect(order(after)).toEqual(order(before))
  for (const box of before.boxes) expect(Math.abs(after.boxes.find((b) => b.name === box.name)!.x - box.x)).toBeLessThan(30)
})

test('zones side by side cross little, and the same list is always drawn the same', async () => {
  const [one, again] = [await laidOut(zones(5)), await laidOut(zones(5))]
  expect(crossings(one)).toBeLessThanOrEqual(one.wires.size / 2)
  expect(geometry(one, zones(5).wiring)).toEqual(geometry(again, zones(5).wiring))
})
