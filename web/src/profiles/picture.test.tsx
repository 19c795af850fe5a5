// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from '@testing-library/react'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { Preferences } from '../shell/preferences'
import { BEGINNING, type Forecast, type Profile } from './data'
import { Outcome } from './Outcome'
import { Picture } from './Picture'
import { placed } from './scale'
import { SegmentRows } from './SegmentRows'

const looped: Profile = { ...BEGINNING, loops: [{ first: 1, last: 2, times: 2 }] }
const at = [0, 1200, 4800, 5400]
const FORECAST = {
  says: '',
  model: '',
  corners: [
    { time_s: 1200, celsius: 60, segment: 0 },
    { time_s: 4800, celsius: 60, segment: 1 },
    { time_s: 6000, celsius: 60, segment: 0 },
    { time_s: 9600, celsius: 60, segment: 1 },
    { time_s: 9600, celsius: 60, segment: 2 },
  ],
  course: {
    time_s: at,
    setpoint_c: [20, 60, 60, 60],
    reading_c: [20, 55, 60, 50],
    low_c: [20, 50, 59, 45],
    high_c: [20, 58, 61, 52],
    output: [50, 100, 40, 0],
    surface_c: at,
    core_c: [20, 40, 59, 55],
  },
  marks: [
    { why: 'flat_out', segment: 0, start_s: 600, end_s: 1200, behind_c: 5, sure: true },
    { why: 'never', segment: 1, start_s: 1200, end_s: 1200, behind_c: 5, sure: false },
  ],
  segments: [
    {
      segment: 0,
      start_s: 0,
      end_s: 1200,
      held_s: 0,
      lag_c: 5,
      core_lag_c: 20,
      within_s: null,
      band_c: 3,
      energy_kwh: 0.1,
      reserve: -1e-9,
    },
  ],
  findings: [],
  planned_s: 4800,
  total_s: 5400,
  total_low_s: 5000,
  total_high_s: 7000,
  held_s: 0,
  energy_kwh: 0.25,
  price: 0.08,
  peak_w: 290,
  begins_h: 22.75,
  other: null,
} as Forecast

const moved = vi.fn()
const chosen = vi.fn()
const shown = (profile: Profile) =>
  render(
    <Preferences>
      <Picture profile={profile} forecast={FORECAST} power={300} chosen={0} behind={false} onChoose={chosen} onMove={moved} />
      <SegmentRows profile={profile} forecast={FORECAST} per="h" chosen={0} onChoose={chosen} />
      <Outcome forecast={FORECAST} unit="C" />
    </Preferences>,
  )

beforeEach(() => {
  moved.mockClear()
  chosen.mockClear()
})
afterEach(cleanup)

it('has one handle a corner, of a loop only on its first passage', () => {
  shown(looped)
  expect(screen.getAllByRole('slider').map((s) => s.getAttribute('aria-label'))).toEqual(['End of segment 1', 'End of segment 2'])
})

it('moves a corner by the keys from what the profile says, not from a forecast that may be behind', () => {
  const hotter = { ...looped, segments: looped.segments.map((s, i) => (i === 0 ? { ...s, target_c: 70 } : s)) }
  shown(hotter)
  const [ramp, soak] = screen.getAllByRole('slider')
  fireEvent.keyDown(ramp!, { key: 'ArrowUp' })
  expect(moved).toHaveBeenLastCalledWith(0, 71, 1500, 20) // 50 degrees at 2 a minute
  fireEvent.keyDown(ramp!, { key: 'ArrowDown', shiftKey: true })
  expect(moved).toHaveBeenLastCalledWith(0, 60, 1500, 20)
  fireEvent.keyDown(soak!, { key: 'ArrowUp' })
  expect(moved.mock.lastCall!.slice(0, 3)).toEqual([1, 60, 3600]) // a soak has its time only
  fireEvent.keyDown(soak!, { key: 'ArrowRight' })
  expect(moved.mock.lastCall![2]).toBeGreaterThan(3600)
  fireEvent.keyDown(soak!, { key: 'x' })
  expect(moved).toHaveBeenCalledTimes(4)
})

it('marks what is not followed where it is, and says the rest in the rows', () => {
  const { container } = shown(looped)
  expect(container.querySelectorAll('.unfollowed')).toHaveLength(1) // a moment has no width
  expect(container.querySelector('.unfollowed.sure')!.textContent).toBe('heater flat out')
  expect(screen.getByText('to 60.0 °C at 120 °C/h')).toBeTruthy()
  expect(screen.getByText('0 %')).toBeTruthy() // never less than nothing
  expect(container.textContent).toContain('× 2')
})

it('says how long it takes, and that it is over the next day', () => {
  const { container } = shown(looped)
  expect(container.textContent).toContain('0.25 kWh for 0.08')
  expect(container.textContent).toContain('Begun at 22:45 it is over at 0:15, the next day')
})

it('says what is not followed where neither a corner nor other words stand', () => {
  const corners = [
    [130, 30],
    [400, 40],
    [330, 230],
  ] as const
  const places = placed([120, 250, 260, 300, 700], [...corners], [30, 232])
  places.forEach(([left, y], i) => {
    for (const [cx, cy] of corners) expect(cx > left - 12 && cx < left + 150 && Math.abs(cy - y) < 16).toBe(false)
    for (const [other, at] of places.slice(0, i)) expect(Math.abs(other - left) < 150 && Math.abs(at - y) < 16).toBe(false)
  })
  expect(places[4]).toEqual([700, 30]) // at the head where it can
})
