// @vitest-environment jsdom
import { cleanup, render, screen } from '@testing-library/react'
import { afterEach, expect, test } from 'vitest'
import type { Schemas } from '../api/client'
import { Preferences } from '../shell/preferences'
import { OverTemperature } from './OverTemperature'

const over: Schemas['OverTemperature'] = {
  points: [
    { celsius: 100, gain: [1.9, 2, 2.1], rate: [0.0019, 0.002, 0.0021] },
    { celsius: 400, gain: [1.1, 1.2, 1.3], rate: [0.0015, 0.0016, 0.0017] },
  ],
  differs: true,
  pays: true,
  line_c: [100, 400],
  line: [2, 1.2],
  bands: [1, 0.8],
  says: 'Over {100…400 °C} the gain falls.',
}

afterEach(cleanup)

const shown = (given: typeof over) =>
  render(
    <Preferences>
      <OverTemperature over={given} />
    </Preferences>,
  )

test('every record is a point with its interval, and what suits is told beside the first', () => {
  const { container } = shown(over)
  expect(container.querySelectorAll('.point circle')).toHaveLength(2)
  const [low, high] = [...container.querySelectorAll('.point line')].map((l) => Number(l.getAttribute('y1')) - Number(l.getAttribute('y2')))
  expect(low).toBeGreaterThan(0)
  expect(high).toBeGreaterThan(0)
  expect(screen.getByText(/0\.80 of it at 400°/)).toBeTruthy()
})

test('where it does not pay nothing is offered', () => {
  shown({ ...over, pays: false })
  expect(screen.queryByText(/of it at/)).toBeNull()
})
