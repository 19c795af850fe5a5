import { expect, test } from 'vitest'
import { tagPlace } from './tagPlace'

test('a tag sits on the longest level piece', () => {
  const at = tagPlace([{ x: 0, y: 0 }, { x: 30, y: 0 }, { x: 30, y: 80 }, { x: 230, y: 80 }], 0.5)
  expect(at).toMatchObject({ x: 130, y: 80 })
})

test('where no level piece is long enough it takes an upright one', () => {
  const at = tagPlace([{ x: 0, y: 0 }, { x: 20, y: 0 }, { x: 20, y: 100 }, { x: 40, y: 100 }], 0.5)
  expect(at).toMatchObject({ x: 20, y: 50 })
})
