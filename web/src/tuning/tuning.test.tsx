// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { act, cleanup, fireEvent, render, renderHook, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { afterEach, expect, test, vi } from 'vitest'
import type { Figure, Schemas } from '../api/client'
import { ByHand, type Numbers, numbersOf } from './ByHand'
import { CandidateTable } from './CandidateTable'
import { useHeldWhile } from './heldWhile'
import { type Candidate, drawn } from './lines'
import { fromPlace, toPlace } from './slider'
import { WhereTheyLie } from './WhereTheyLie'

vi.mock('../shell/preferences', () => ({ usePreferences: () => ({ unit: 'C', theme: 'day' }) }))
vi.mock('../shell/reason', () => ({ useShow: () => vi.fn() }))
afterEach(cleanup)

const figure = (name: string, value: number, high: number | null, more: Partial<Figure> = {}) =>
  ({ name, value, high, low: null, kind: 'temperature_difference', unit: '°C', symbol: '', inputs: [], formula: '', reason: '', source: '', school: '', ...more }) as Figure // prettier-ignore

const candidate = (key: string, over: number, back: number | null, more: Partial<Candidate> = {}) =>
  ({
    key, name: key.toUpperCase(), source: '', aim: '', mode: 'pid', remark: '', metrics: [], door: [], down: [], neighbour: [], loop: [], ms: figure('Ms', 1.4, 1.5, { kind: 'ratio' }),
    figures: [figure('proportional band', 13.4567, null, { symbol: 'PB' }), figure('integral time', 432.1, null, { symbol: 'T_i', kind: 'time' })],
    outcome: [figure('overshoot', over / 2, over), figure('there for good', 60, back, { kind: 'time' })], swings: false, window: 'holds', course: null, ...more,
  }) as Candidate // prettier-ignore

test('a slider goes by ratios, and its left end may be nothing', () => {
  const range = { low: 5, high: 14_400, off: true }
  for (const value of [5, 60, 333, 14_400]) expect(Math.abs(fromPlace(toPlace(value, range), range) / value - 1)).toBeLessThan(0.03)
  expect(toPlace(0, range)).toBe(0)
  expect(toPlace(1e9, range)).toBe(1000)
  expect(fromPlace(0, { low: 0.5, high: 500 })).toBe(0.5)
  for (let place = 1; place <= 1000; place++) expect(fromPlace(place, range)).toBeGreaterThanOrEqual(fromPlace(place - 1, range))
})

test('while one question is under way others wait, and the last one is asked', () => {
  const { result, rerender } = renderHook(({ value, busy }) => useHeldWhile(value, busy), { initialProps: { value: 1, busy: false } })
  rerender({ value: 2, busy: true })
  rerender({ value: 3, busy: true })
  expect(result.current).toBe(1)
  act(() => rerender({ value: 3, busy: false }))
  expect(result.current).toBe(3)
})

test('drawn is what the priorities choose, what is set now, on/off and the one picked, each once', () => {
  const candidates = ['simc', 'tight', 'now', 'on_off', 'old'].map((key) => candidate(key, 1, 60))
  const data = {
    candidates,
    preferred: { fast: 'tight', steady: 'tight', gentle: 'on_off', no_overshoot: 'simc' },
  } as unknown as Schemas['TuningView']
  expect(drawn(data, 'old')).toEqual(['tight', 'on_off', 'simc', 'now', 'old'])
  expect(drawn(data, 'by_hand')).not.toContain('by_hand')
})

test('numbers to begin with have three digits, and on/off its hysteresis', () => {
  expect(numbersOf(candidate('simc', 1, 60))).toMatchObject({ proportional_band_c: 13.5, integral_time_s: 432, hysteresis_c: null })
  const onOff = candidate('on_off', 1, 60, { mode: 'on_off', figures: [figure('hysteresis', 2, null)] })
  expect(numbersOf(onOff)).toMatchObject({ proportional_band_c: null, hysteresis_c: 2 })
})

test('a number that begins with nothing is typed to its end, and two loops have two more', async () => {
  const told: Numbers[] = []
  const both = {
    proportional_band_c: 90,
    integral_time_s: 300,
    derivative_time_s: 0,
    hysteresis_c: null,
    inner_band_c: 42,
    inner_integral_s: 60,
  }
  function Turned() {
    const [numbers, setNumbers] = useState<Numbers>(both)
    return <ByHand numbers={numbers} onChange={(n) => (setNumbers(n), told.push(n))} refused={null} />
  }
  render(
    <QueryClientProvider client={new QueryClient()}>
      <Turned />
    </QueryClientProvider>,
  )
  const user = userEvent.setup()
  for (const [label, name] of [
    ['Inner proportional band', 'inner_band_c'],
    ['Proportional band', 'proportional_band_c'],
  ] as const) {
    await user.clear(screen.getByLabelText(label))
    await user.type(screen.getByLabelText(label), '0.55')
    expect(told.at(-1)![name]).toBe(0.55)
    expect(told.some((n) => n[name] === 0)).toBe(false)
  }
  await user.clear(screen.getByLabelText('Inner integral time'))
  await user.type(screen.getByLabelText('Inner integral time'), '0')
  expect(told.at(-1)).toMatchObject({ inner_integral_s: 0, inner_band_c: 0.55 })
  await user.clear(screen.getByLabelText('Proportional band'))
  await user.tab()
  expect((screen.getByLabelText('Proportional band') as HTMLInputElement).value).toMatch(/^0\.55/)
})

test('a table says the most beside what was found, and what never comes, swings or leaves', () => {
  const rows = [candidate('a', 3, null, { window: 'leaves' }), candidate('b', 1, 90, { ms: null, swings: true })]
  const onPick = vi.fn()
  render(<CandidateTable rows={rows} lines={[]} chosen="a" onPick={onPick} />)
  expect(screen.getByText('…3.0 °C')).toBeTruthy()
  expect(screen.getByText('…never')).toBeTruthy()
  expect(screen.getByText('swings')).toBeTruthy()
  expect(screen.getByText('leaves it')).toBeTruthy()
  fireEvent.click(screen.getByRole('radio', { name: 'B' }))
  expect(onPick).toHaveBeenCalledWith('b')
})

test('what follows a set-point down, and what other zones do, has a column where it was tried', () => {
  const down = [figure('there for good', 240, null, { kind: 'time' })]
  const { rerender } = render(<CandidateTable rows={[candidate('a', 3, 60)]} lines={[]} chosen="a" onPick={vi.fn()} />)
  expect(screen.queryByText('there, step down') ?? screen.queryByText('off by zones')).toBeNull()
  const rows = [candidate('a', 3, 60, { down }), candidate('b', 1, 90, { neighbour: [figure('furthest off', 0.7, 0.9)] })]
  rerender(<CandidateTable rows={rows} lines={[]} chosen="a" onPick={vi.fn()} />)
  expect(screen.getByText('there, step down') && screen.getByText('off by zones')).toBeTruthy()
  expect(screen.getByText('not yet') && screen.getByText('…0.90 °C')).toBeTruthy()
})

test('points that swing or never arrive are left out; one is picked by key', () => {
  const onPick = vi.fn()
  const points = [
    candidate('a', 3, 60),
    candidate('b', 1, 90),
    candidate('c', 4, 99),
    candidate('d', 9, null),
    candidate('e', 9, 9, { swings: true }),
  ]
  const { rerender } = render(<WhereTheyLie candidates={points} front={['a', 'b']} chosen="a" onPick={onPick} />)
  const shown = screen.getAllByRole('button')
  expect(shown.map((s) => s.classList.contains('best'))).toEqual([true, true, false])
  fireEvent.keyDown(shown[1]!, { key: 'Enter' })
  expect(onPick).toHaveBeenCalledWith('b')
  fireEvent.keyDown(shown[0]!, { key: 'ArrowRight' })
  expect(onPick).toHaveBeenCalledTimes(2)
  fireEvent.keyDown(shown[0]!, { key: 'ArrowLeft' })
  expect(onPick).toHaveBeenCalledTimes(2)
  rerender(<WhereTheyLie candidates={points.slice(0, 2)} front={[]} chosen="a" onPick={onPick} />)
  expect(screen.queryAllByRole('button')).toEqual([])
})

test('the chosen point is drawn to the nearest of those that nothing beats, and only it', () => {
  const onPick = vi.fn()
  SVGElement.prototype.setPointerCapture = vi.fn()
  const points = [candidate('a', 4, 30), candidate('b', 1, 90), candidate('c', 3, 80)]
  render(<WhereTheyLie candidates={points} front={['a', 'b']} chosen="a" onPick={onPick} />)
  const picture = screen.getByRole('group')
  const [a, , c] = screen.getAllByRole('button')
  const [later, lower] = ['cx', 'cy'].map((at) => Number(c!.getAttribute(at)))
  fireEvent.pointerDown(c!)
  fireEvent.pointerMove(picture, { clientX: later, clientY: lower })
  expect(onPick).not.toHaveBeenCalled()
  fireEvent.pointerDown(a!)
  fireEvent.pointerMove(picture, { clientX: Number(a!.getAttribute('cx')), clientY: Number(a!.getAttribute('cy')) })
  expect(onPick).not.toHaveBeenCalled()
  fireEvent.pointerMove(picture, { clientX: later, clientY: lower })
  expect(onPick).toHaveBeenCalledExactlyOnceWith('b')
  fireEvent.pointerUp(picture)
  fireEvent.pointerMove(picture, { clientX: 0, clientY: 0 })
  expect(onPick).toHaveBeenCalledTimes(1)
})
