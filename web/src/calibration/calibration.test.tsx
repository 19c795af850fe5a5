// @vitest-environment jsdom
import { act, cleanup, fireEvent, render, screen } from '@testing-library/react'
import { afterEach, expect, test, vi } from 'vitest'
import type { Figure, Schemas } from '../api/client'
import { type Certificate, CertificateFields } from '../equipment/CertificateFields'
import { Belief } from './Belief'
import { answersOf, type Compared } from './draft'
import { AddedAt } from './AddedAt'
import { nextMoment, nextRound, SayWhen } from './SayWhen'
import { OffsetHistory } from './OffsetHistory'

vi.mock('../shell/preferences', () => ({ usePreferences: () => ({ unit: 'C', theme: 'day' }) }))
vi.mock('../shell/reason', () => ({ useShow: () => vi.fn() }))
vi.mock('../shared/useWidth', () => ({ useWidth: () => 700 }))
vi.mock('../units/fields', () => ({ useWords: () => ({ label: (name: string) => name, choices: () => [['correction', 'Correction'], ['error', 'Error']] }) })) // prettier-ignore
afterEach(cleanup)

const figure = (name: string, value: number) =>
  ({ name, value, high: null, low: null, kind: 'temperature_difference', unit: '°C', symbol: '', inputs: [], formula: '', reason: '', source: '', school: '' }) as Figure // prettier-ignore
const term = (key: string, value: number) => ({ key, u: figure(key, value), share: value, shrinks: false, halve: '' })

test('the biggest doubt has the longest bar and Monte Carlo is shown only where it is worked out', () => {
  const belief = { terms: [term('places', 0.4), term('digit', 0.1)], combined: figure('u', 0.41), expanded: figure('U', 0.9), freedom: null, sampled: null, advice: 'Bring the tips together.' } as Schemas['Belief'] // prettier-ignore
  const { container, rerender } = render(<Belief belief={belief} />)
  expect([...container.querySelectorAll<HTMLElement>('.bar')].map((b) => b.style.width)).toEqual(['100%', '25%'])
  expect(screen.queryByText(/Monte Carlo/)).toBeNull()
  rerender(<Belief belief={{ ...belief, sampled: figure('s', 0.7) }} />)
  expect(screen.getByText(/Monte Carlo/)).toBeTruthy()
  rerender(<Belief belief={{ ...belief, terms: [] }} />)
  expect(container.textContent).toBe('')
})

test('answers left empty are not sent', () => {
  expect(answersOf({ kind: 'boiling', pressure_hpa: null, altitude_m: 0, sea_level: false })).toEqual({ kind: 'boiling', altitude_m: 0, sea_level: false }) // prettier-ignore
})

const DAY = 86_400_000
function history(school: Compared['school'], due: string | null): Compared {
  const today = Date.now() / DAY
  const row = (id: number, age: number, left: number) => ({ id, at: new Date((today - age) * DAY).toISOString(), who: '', reference: 'T-01', sensor: 'K', school, pairs: [], as_found_c: 0, as_left_c: left, error_c: 0, uncertainty_c: 0.1 }) // prettier-ignore
  const band = [-60, -30, 0, 30].map((d) => ({ day: today + d, low_c: 0.1, mid_c: 0.4, high_c: 0.7 }))
  return {
    rows: [row(2, 10, -0.4), row(1, 60, 0)],
    tolerance_c: 1,
    beside_c: 0,
    sensor: 'K',
    school,
    due,
    drift: { band },
  } as unknown as Compared
}

test('the offset that is needed is drawn in the controller’s own school, and the day it is compared again', () => {
  const due = new Date(Date.now() + 12 * DAY).toISOString().slice(0, 10)
  const middle = (school: Compared['school'], on: string | null) => {
    const { container, unmount } = render(<OffsetHistory data={history(school, on)} />)
    const [, line] = container.querySelectorAll('path')
    const found = { y: Number(/,([\d.]+)/.exec(line!.getAttribute('d')!)![1]), said: container.textContent }
    unmount()
    return found
  }
  const added = middle('added_to_reading', due)
  const adjusted = middle('temperature_adjust', null)
  expect(added.y).toBeGreaterThan(95) // below the middle: a display that reads high needs a negative number
  expect(adjusted.y).toBeLessThan(95)
  expect(added.said).toContain('again')
  expect(adjusted.said).not.toContain('again')
})

test('a certificate has points, and the newest needs none of the older ones', () => {
  let now: Certificate[] = []
  const { rerender } = render(<CertificateFields certificates={now} set={(next) => (now = next)} problem={() => undefined} />)
  const again = () => rerender(<CertificateFields certificates={now} set={(next) => (now = next)} problem={() => undefined} />)
  fireEvent.click(screen.getByText('Enter its certificate'))
  again()
  fireEvent.click(screen.getByText('One more point'))
  again()
  fireEvent.change(screen.getByLabelText('at_c (2)'), { target: { value: '60' } })
  fireEvent.click(screen.getByText('Error'))
  again()
  expect(now[0]!.points).toHaveLength(2)
  expect(now[0]!.says).toBe('error')
  fireEvent.click(screen.getByText('Remove this certificate'))
  expect(now).toEqual([])
})

test('what is added is drawn through what was compared, and what does not follow stands out', () => {
  const at = (reference_c: number, add_c: number, within: boolean) => ({ named: '', reference_c, add_c, expanded_c: 0.2, within, left: figure('left', 0) }) // prettier-ignore
  const drawn = [0, 100, 200].map((at_c) => ({ at_c, add_c: at_c / 100 - 1 }))
  const found = { levels: [at(0, -1, true), at(100, 0.6, false), at(200, 1, true)], drawn } as unknown as Schemas['Several']
  const { container } = render(<AddedAt found={found} working={150} />)
  const dots = [...container.querySelectorAll('circle')]
  expect(dots.map((d) => d.getAttribute('fill'))).toEqual(['var(--cable)', 'var(--fault)', 'var(--cable)'])
  const [x0, x1, x2] = dots.map((d) => Number(d.getAttribute('cx')))
  expect(x1! - x0!).toBeCloseTo(x2! - x1!)
  expect(container.textContent).toContain('the work, 150')
})

test('it says when to read, and a moment is over some seconds after it', () => {
  const going = { begun: 100_000, every_s: 50, pairs: 3 }
  expect(nextMoment(going, 90_000)).toEqual({ pair: 0, in_s: 10 })
  expect(nextMoment(going, 102_000)).toEqual({ pair: 0, in_s: -2 })
  expect(nextMoment(going, 105_000)).toEqual({ pair: 1, in_s: 45 })
  expect(nextMoment(going, 206_000)).toBeNull()
})

test('what was missed comes again a whole round later, at the same place of the cycle', () => {
  const going = { begun: 100_000, every_s: 50, pairs: 3 }
  expect(nextRound(going, 251_000)).toBe(400_000)
  expect(nextRound(going, 110_000)).toBe(250_000)
  const again = { ...going, begun: 400_000, missed: [0, 2] }
  expect(nextMoment(again, 390_000)).toEqual({ pair: 0, in_s: 10 })
  expect(nextMoment(again, 410_000)).toEqual({ pair: 2, in_s: 90 })
  expect(nextMoment(again, 505_000)).toBeNull()
})

test('it offers to say when for the pairs that miss something', () => {
  vi.useFakeTimers()
  localStorage.clear()
  const taken: [number, boolean][] = []
  render(<SayWhen slug="b" moments={{ pairs: 2, every_s: 10, cycles: 1 }} missing={[1]} onNow={(...now) => taken.push(now)} />)
  fireEvent.click(screen.getByText('Say when to read'))
  for (let i = 0; i < 120; i++) act(() => void vi.advanceTimersByTime(250))
  fireEvent.click(screen.getByText('Say when for what was missed: 2'))
  for (let i = 0; i < 120; i++) act(() => void vi.advanceTimersByTime(250))
  expect(taken).toEqual([
    [0, false],
    [1, false],
    [1, true],
  ])
  vi.useRealTimers()
})

test('at its moment a pair is taken once', () => {
  vi.useFakeTimers()
  const taken: number[] = []
  render(<SayWhen slug="a" moments={{ pairs: 2, every_s: 10, cycles: 1 }} missing={[]} onNow={(pair) => taken.push(pair)} />)
  fireEvent.click(screen.getByText('Say when to read'))
  expect(screen.getByText(/Pair 1 of 2 in/)).toBeTruthy()
  act(() => void vi.advanceTimersByTime(10_500))
  expect(screen.getByText(/Now: read both, pair 1/)).toBeTruthy()
  for (let i = 0; i < 80; i++) act(() => void vi.advanceTimersByTime(250))
  expect(taken).toEqual([0, 1])
  expect(screen.getByText(/All 2 moments are over/)).toBeTruthy()
  vi.useRealTimers()
})
