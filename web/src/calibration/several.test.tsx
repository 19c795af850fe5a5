// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import type { Figure, Rig } from '../api/client'
import { InputAlone } from './InputAlone'
import { Several } from './Several'

const asked: { path: string; body: Record<string, unknown> }[] = []
const answers: Record<string, unknown> = {}
vi.mock('../api/client', async (real) => ({
  ...(await real<object>()),
  api: {
    GET: (path: string) => Promise.resolve(answers[path]),
    POST: (path: string, { body }: { body: Record<string, unknown> }) => {
      asked.push({ path, body })
      return Promise.resolve(answers[path])
    },
  },
  need: (promise: Promise<unknown>) => promise,
}))
vi.mock('../api/hooks', () => ({ useChange: (_: string, mutationFn: (v: unknown) => unknown) => ({ mutate: mutationFn, isPending: false, isSuccess: false, error: null }) })) // prettier-ignore
vi.mock('../shell/preferences', () => ({ usePreferences: () => ({ unit: 'C', theme: 'day' }) }))
vi.mock('../shell/reason', () => ({ useShow: () => vi.fn() }))
vi.mock('../shared/useWidth', () => ({ useWidth: () => 600 }))
vi.mock('../units/fields', () => ({ useWords: () => ({ label: (name: string) => name, says: (_: string, v: string) => v, choices: (name: string) => (name === 'lead' ? [['copper', 'Copper'], ['simulator', 'Simulator']] : [['gain', 'Gain'], ['points', 'Points']]) }) })) // prettier-ignore

const figure = (name: string, value: number) =>
  ({ name, value, high: null, low: null, kind: 'temperature_difference', unit: '°C', symbol: '', inputs: [], formula: '', reason: '', source: '', school: '' }) as Figure // prettier-ignore
const level = (key: string, near_c: number, newest: boolean) => ({ key, near_c, newest, at: '2026-11-20T10:00:00Z', reference: 'T-01', add_c: 0.5, expanded_c: 0.2, pairs: 3 }) // prettier-ignore
const SEVERAL = '/api/v1/rigs/{slug}/calibration/several'
const FOUND = { typed: [figure('offset beside it', -0.4)], levels: [], drawn: [], verdict: 'find_cause', advice: 'too much', touch: false, needs_reason: true, at_working: figure('off', 0), worst: figure('worst', 0.1), one_offset: figure('one', 1) } // prettier-ignore
const rig = (sensor: string) => ({ slug: 'a', revision: 3, purpose: { working_c: 65 }, choice: { sensor } }) as unknown as Rig
const show = (what: React.ReactElement) => render(<QueryClientProvider client={new QueryClient()}>{what}</QueryClientProvider>)

beforeEach(() => {
  asked.length = 0
  localStorage.clear()
})
afterEach(cleanup)

test('the newest of each temperature is taken, another one when it is asked for, and nothing is entered without a reason', async () => {
  answers[SEVERAL] = { levels: [level('3.0', 94, true), level('2.0', 92, false), level('1.0', 0, true)], ways: [], unit: 'C', step_c: 0.1, school: 'added_to_reading' } // prettier-ignore
  answers[`${SEVERAL}/preview`] = FOUND
  show(<Several rig={rig('K')} />)
  await waitFor(() => expect(asked.at(-1)!.body.levels).toEqual(['3.0', '1.0']))
  fireEvent.click(screen.getAllByRole('checkbox')[1]!)
  await waitFor(() => expect(asked.at(-1)!.body.levels).toEqual(['3.0', '2.0', '1.0']))
  const enter = () => screen.getByText<HTMLButtonElement>('Enter these numbers')
  expect(enter().disabled).toBe(true)
  fireEvent.change(screen.getByLabelText('anyway'), { target: { value: 'known and accepted' } })
  await waitFor(() => expect(enter().disabled).toBe(false))
  fireEvent.click(enter())
  await waitFor(() => expect(asked.at(-1)!.body).toMatchObject({ revision: 3, anyway: 'known and accepted' }))
})

test('with one temperature it says how to come to more, and with the other school that there is one number', async () => {
  answers[SEVERAL] = { levels: [level('1.0', 0, true)], ways: [], unit: 'C', step_c: 0.1, school: 'added_to_reading' }
  const { unmount } = show(<Several rig={rig('K')} />)
  await screen.findByText(/Compare at two temperatures or more/)
  unmount()
  answers[SEVERAL] = { levels: [], ways: [], unit: 'C', step_c: 0.1, school: 'temperature_adjust' }
  show(<Several rig={rig('K')} />)
  await screen.findByText(/it is one number, for one temperature/)
})

test('what is fed is counted in what the sensor gives, and only whole rows are asked about', async () => {
  answers['/api/v1/rigs/{slug}/calibration/input'] = { says: 'The input is right.', unit: 'Ω', points: [] }
  const { unmount } = show(<InputAlone rig={rig('Pt100')} />)
  fireEvent.change(screen.getByLabelText('Fed 1, Ω'), { target: { value: '123.24' } })
  fireEvent.change(screen.getByLabelText('Shown 1'), { target: { value: '60.4' } })
  fireEvent.change(screen.getByLabelText('Fed 2, Ω'), { target: { value: '130' } })
  fireEvent.click(screen.getByText('Whose error is it?'))
  await screen.findByText('The input is right.')
  expect(asked.at(-1)!.body.fed).toEqual([{ feed: 123.24, display_c: 60.4 }])
  unmount()
  localStorage.clear()
  show(<InputAlone rig={rig('K')} />)
  expect(screen.getByLabelText('Fed 1, mV')).toBeTruthy()
  fireEvent.click(screen.getByText('Simulator'))
  expect(screen.getByLabelText('Fed 1, °C')).toBeTruthy()
})
