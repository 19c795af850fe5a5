// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react'
import { MemoryRouter, Outlet, Route, Routes } from 'react-router'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { api, type Rig } from '../api/client'
import { Preferences } from '../shell/preferences'
import { Reasons } from '../shell/reason'
import Proving from './Proving'
import { Taken } from './Taken'

const figure = { name: 'reading', value: 21, kind: 'temperature', unit: '°C', formula: '', inputs: [], reason: '', source: '', school: '', symbol: '', low: null, high: null } // prettier-ignore
const reading = { figure, low: 17, high: 25, accepts: '{17…25 °C}', divided: false, take: 'reading' }
const step = (key: string, more: object = {}) => ({
  key, title: `Step ${key}`, does: `do ${key}`, must: 'so.', measure: null, help: '', isolated: '', caution: '', constant: '', elsewhere: '',
  halves: false, state: 'open', changed: [], record: null, dangers: [], ...more,
}) // prettier-ignore
const stage = (number: number, steps: object[], more: object = {}) => ({
  number, title: `Stairs ${number}`, after: 'wiring', warns: 'careful', waits: '', steps, done: 0, signed: null, before: [], against: [], ...more,
}) // prettier-ignore
const record = {
  at: '2026-11-01T08:00:00Z',
  who: 'Optician',
  verdict: 'passed',
  says: '{0.06 Ω}, expected {0…0.12 Ω}.',
  remark: 'cold',
  why: '',
}
const VIEW = {
  revision: 4,
  room_c: 21,
  due: '2027-11-01T08:00:00Z',
  next: { stage: 1, key: 'reading' },
  stages: [
    stage(0, [step('look', { state: 'void', changed: ['wire A.1–B.2 was changed'] }), step('earth', { state: 'passed', record })]),
    stage(1, [step('reading', { measure: reading })]),
    stage(3, [], { waits: 'What guards the rig comes first' }),
  ],
}
const rig = { slug: 'r', revision: 4, purpose: { ambient_c: 21, effect: 'heats' }, live: { status: 'online' } } as unknown as Rig

let asked: { path: string; query: unknown }[] = []
let answer: (path: string) => unknown = () => VIEW
beforeEach(() => {
  asked = []
  answer = () => VIEW
  sessionStorage.clear()
  vi.spyOn(api, 'GET').mockImplementation(((path: string, given: { params: { query: unknown } }) => {
    asked.push({ path, query: given.params.query })
    return Promise.resolve({ data: answer(path), response: new Response('{}') })
  }) as unknown as typeof api.GET)
})
afterEach(() => {
  cleanup()
  vi.restoreAllMocks()
})

const WORDS = [{ name: 'room_c', label: 'The room is at', kind: 'temperature', choices: [] }]
const queries = () => {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  client.setQueryData(['fields'], WORDS)
  return client
}
const around = (what: React.ReactNode, at = '/') =>
  render(
    <QueryClientProvider client={queries()}>
      <Preferences>
        <Reasons>
          <MemoryRouter initialEntries={[at]}>
            <Routes>
              <Route element={<Outlet context={rig} />}>
                <Route path="/" element={what} />
              </Route>
            </Routes>
          </MemoryRouter>
        </Reasons>
      </Preferences>
    </QueryClientProvider>,
  )

test('the step in hand is the next one, and another is picked from the stairs and the list', async () => {
  around(<Proving />)
  await screen.findByText('do reading')
  expect(screen.getByText('Due again 1 Nov 2027,', { exact: false })).toBeTruthy()
  fireEvent.click(screen.getByRole('button', { name: /Stage 0/ }))
  await screen.findByText('do look')
  expect(screen.getAllByText(/wire A.1–B.2 was changed/)).toHaveLength(2)
  expect(screen.getByText(/1 Nov 2026, .*Optician/).textContent).toMatch(/0.06.Ω, expected .*cold/)
  fireEvent.click(screen.getByRole('button', { name: /Step earth/ }))
  await screen.findByText('do earth')
  expect(screen.getByRole('button', { name: 'Measure it again' })).toBeTruthy()
})

test('a step of the address is opened, and a stage that waits says why', async () => {
  around(<Proving />, '/?step=earth')
  await screen.findByText('do earth')
  fireEvent.click(screen.getByRole('button', { name: /Stage 3/ }))
  await screen.findByText('What guards the rig comes first')
  expect(screen.queryByRole('form', { name: 'Step in hand' })).toBeNull()
})

test('another room asks for other numbers, and paper is for that room', async () => {
  around(<Proving />)
  await screen.findByText('do reading')
  fireEvent.change(screen.getByLabelText('The room is at'), { target: { value: '26' } })
  await waitFor(() => expect(asked.at(-1)!.query).toEqual({ room_c: 26 }))
  expect(screen.getByRole('link', { name: 'On paper, blank' }).getAttribute('href')).toContain('blank=true')
})

test('a rig without wiring is sent there', async () => {
  answer = () => ({ ...VIEW, stages: [], next: null, due: null })
  around(<Proving />)
  const link = await screen.findByRole('link', { name: 'Lay out the wiring' })
  expect(link.getAttribute('href')).toBe('/rigs/r/wiring')
})

test('the reading is taken from the link, and a number out of a stretch of a run', async () => {
  const onTake = vi.fn()
  answer = (path) =>
    path.endsWith('/runs')
      ? [{ id: 7, name: 'first heat', length_s: 900 }]
      : { value: 22.5, says: path.endsWith('take') ? 'read from the link' : '' }
  around(<Taken rig={rig} step={step('reading', { measure: reading }) as never} room={21} onTake={onTake} />)
  fireEvent.click(screen.getByRole('button', { name: 'Read it from the link' }))
  await waitFor(() => expect(onTake).toHaveBeenCalledWith(22.5, 'read from the link'))
  const details = screen.getByText('Take it from a run').parentElement as HTMLDetailsElement
  details.open = true
  fireEvent(details, new Event('toggle'))
  await screen.findByRole('option', { name: 'first heat' })
  fireEvent.change(screen.getByLabelText('Run'), { target: { value: '7' } })
  fireEvent.click(await screen.findByRole('button', { name: 'Take it from there' }))
  await waitFor(() => expect(asked.at(-1)!.query).toEqual({ key: 'reading', room_c: 21, run: 7, from_s: 0, to_s: 900 }))
})
