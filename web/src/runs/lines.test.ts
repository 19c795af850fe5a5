import { expect, test } from 'vitest'
import { broken, written, typicalGap, zigzag } from './lines'

test('a gap is five usual intervals', () => {
  expect(typicalGap([0, 2, 4, 6, 60, 62])).toBe(10)
  expect(typicalGap([0, 1])).toBe(Infinity)
})

test('the line is lifted at a gap and nowhere else', () => {
  const line = broken([0, 2, 4, 60, 62], [20, 21, 22, 30, 31], 10)
  expect(line).toEqual([
    [0, 20],
    [2, 21],
    [4, 22],
    [4, null],
    [60, 30],
    [62, 31],
  ])
})

test('missing readings stay missing', () => {
  expect(broken([0, 1, 2], [20, null, 22], 10)).toEqual([
    [0, 20],
    [1, null],
    [2, 22],
  ])
})

test('a bucket shows both its extremes, a single sample only itself', () => {
  const data = { time_s: [0, 10], reading_low: [20, 30], reading_high: [20, 35] }
  expect(zigzag(data, 100)).toEqual([
    [0, 20],
    [10, 30],
    [10, 35],
  ])
})

test('labels that would lie over one another are written in rows of their own, whatever their order', () => {
  const label = (time_s: number) => ({ time_s, name: 'ten letters' })
  const five = [label(500), label(0), label(50), label(60), label(190)]
  const rows = (across: number) => written(five, 0, 1000, across).map((l) => l.row)
  expect(rows(700)).toEqual([0, 0, 1, 2, 0])
  expect(rows(300)).toEqual([0, 0, 1, 2, 3]) // on a phone they are wider
  expect(written([], 0, 1000, 700)).toEqual([])
})

test('a label is never cut: it turns to the left of its line, or is shortened', () => {
  const at = (time_s: number, name = 'a label of twenty-four..') => written([{ time_s, name }], 5000, 1000, 300)[0]!
  expect(at(5050)).toEqual({ row: 0, left: false, name: 'a label of twenty-four..' })
  expect(at(5990)).toEqual({ row: 0, left: true, name: 'a label of twenty-four..' })
  expect(at(5500)).toMatchObject({ left: false, name: 'a label of twenty-f…' })
  for (let t = 5000; t <= 6000; t += 10) {
    const { left, name } = at(t)
    const [x, width] = [(t - 5000) * 0.3, 8 + name.length * 7]
    expect(left ? x - width : 300 - x - width).toBeGreaterThanOrEqual(-0.01)
  }
  const two = written([{ time_s: 5990, name: 'the second one' }, { time_s: 5980, name: 'the first one' }], 5000, 1000, 300) // prettier-ignore
  expect(two.map((l) => l.left)).toEqual([true, true])
  expect(two[0]!.row).not.toBe(two[1]!.row)
})
