import { expect, test } from 'vitest'
import { spread, ticks } from './placing'

const labels = (ys: number[], gap = 40, height = 440) =>
  spread(
    ys.map((y) => ({ y })),
    gap,
    height,
  ).map((i) => i.label)

test('labels that are apart stay where they are', () => {
  expect(labels([50, 150, 300])).toEqual([50, 150, 300])
})

test('crowded labels step aside by the gap, in order and inside the picture', () => {
  for (const ys of [
    [100, 100, 100],
    [430, 432, 434, 436],
    [10, 11, 12, 430],
    [200, 205, 238, 260, 261],
  ]) {
    const placed = labels(ys)
    expect(Math.max(...placed)).toBeLessThanOrEqual(422)
    placed.slice(1).forEach((at, i) => expect(at - placed[i]!).toBeGreaterThanOrEqual(40 - 1e-9))
  }
})

test('ticks are round and lie between the ends', () => {
  expect(ticks(16.3, 72.7)).toEqual([20, 30, 40, 50, 60, 70])
  expect(ticks(-0.63, 0.63, 5)).toEqual([-0.5, 0, 0.5])
  expect(ticks(0, 1800).at(-1)).toBe(1500)
})
