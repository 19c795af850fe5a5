import { expect, test } from 'vitest'
import { type At, placeTags } from './tags'

const line = (number: number, ...points: [number, number][]) => ({ number, width: 50, points: points.map(([x, y]): At => ({ x, y })) })

test('a tag sits in the middle of the longest level stretch', () => {
  const placed = placeTags([line(1, [0, 0], [30, 0], [30, 80], [230, 80])], [])
  expect(placed.get(1)).toEqual({ x: 130, y: 80 })
})

test('where no level stretch is long enough it takes an upright one', () => {
  const placed = placeTags([line(1, [0, 0], [20, 0], [20, 100], [40, 100])], [])
  expect(placed.get(1)).toEqual({ x: 20, y: 50 })
})

test('lines side by side do not hide each other’s tags', () => {
  const lines = [0, 1, 2, 3].map((i) => line(i, [i * 11, 0], [i * 11, 200]))
  const tags = [...placeTags(lines, []).values()]
  for (const a of tags) for (const b of tags) if (a !== b) expect(Math.abs(a.y - b.y) >= 16 || Math.abs(a.x - b.x) >= 50).toBe(true)
})

test('a tag keeps off a part that its line passes', () => {
  const part = { x: 60, y: -20, width: 80, height: 40 }
  const at = placeTags([line(1, [0, 0], [200, 0])], [part]).get(1)!
  expect(at.x + 25 <= part.x || at.x - 25 >= part.x + part.width || at.y !== 0).toBe(true)
})

test('where there is no room it still has a tag, and a line of one point has none', () => {
  const crowded = placeTags([line(1, [0, 0], [20, 0]), line(2, [0, 0], [20, 0]), line(3, [5, 5])], [])
  expect([...crowded.keys()].sort()).toEqual([1, 2])
})
