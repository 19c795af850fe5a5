import { expect, test } from 'vitest'
import { stretches } from './trend'

test('a hole in what was heard is a hole in the line, and a lone point stays one', () => {
  const points: [number, number | null, number | null][] = [
    [0, 20, 60],
    [1, 21, 60],
    [2, null, null],
    [3, 23, 60],
    [4, null, 60],
    [5, 25, 60],
    [6, 26, 60],
  ]
  expect(stretches(points, 1)).toEqual([
    [
      [0, 20],
      [1, 21],
    ],
    [[3, 23]],
    [
      [5, 25],
      [6, 26],
    ],
  ])
  expect(stretches(points, 2).map((s) => s.length)).toEqual([2, 4])
  expect(stretches([], 1)).toEqual([])
})
