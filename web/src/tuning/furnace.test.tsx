// @vitest-environment jsdom
import { cleanup, render, screen } from '@testing-library/react'
import { afterEach, expect, test } from 'vitest'
import type { Schemas } from '../api/client'
import { Preferences } from '../shell/preferences'
import { Furnace } from './Furnace'

const furnace: Schemas['FurnaceView'] = {
  climbs: [
    { celsius: 50, low: 10, likely: 12, high: 13 },
    { celsius: 300, low: 7, likely: 8, high: 9 },
    { celsius: 550, low: 2, likely: 3, high: 4 },
  ],
  up_to_c: 564,
  at_c: 560,
}

afterEach(cleanup)

test('what is probable lies within what may be, and it ends where it was recorded', () => {
  const { container } = render(
    <Preferences>
      <Furnace furnace={furnace} />
    </Preferences>,
  )
  const points = (of: string) =>
    container
      .querySelector(of)!
      .getAttribute('points')!
      .split(' ')
      .map((p) => p.split(',').map(Number))
  const [probably, mayBe] = [points('.probably'), points('.may-be')]
  probably.forEach(([x, y], i) => {
    expect(mayBe[i]![0]).toBe(x)
    expect(mayBe[i]![1]).toBeGreaterThan(y!)
    expect(mayBe[mayBe.length - 1 - i]![1]).toBeLessThan(y!)
  })
  expect(screen.getByText(/Hotter than 564° it was not recorded/)).toBeTruthy()
})
