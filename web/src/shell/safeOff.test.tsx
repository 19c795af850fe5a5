// @vitest-environment jsdom
import { QueryClientProvider } from '@tanstack/react-query'
import { act, cleanup, render, screen } from '@testing-library/react'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { api, type Schemas } from '../api/client'
import { newQueries } from '../api/queries'
import { Preferences } from './preferences'
import { SafeOffNotice } from './SafeOffNotice'
import { useSafeOff } from './useSafeOff'

function Page() {
  const { state, press, close } = useSafeOff('cabinet')
  return (
    <>
      <button onClick={press}>Heat off</button>
      {state && <SafeOffNotice effect="heat" state={state} onPress={press} onClose={close} />}
    </>
  )
}

type Answered = Awaited<ReturnType<typeof api.POST>>
const answers: ((answer: Answered) => void)[] = []
const failures: ((error: Error) => void)[] = []
const said = (body: Partial<Schemas['SafeOffView']>) =>
  ({ data: { said: '', took_s: 0.2, in_book: true, ...body }, response: new Response() }) as Answered
const settle = (ms = 0) => act(() => vi.advanceTimersByTimeAsync(ms))

beforeEach(() => {
  vi.useFakeTimers()
  answers.length = failures.length = 0
  vi.spyOn(api, 'POST').mockImplementation(
    (() => new Promise((answer, fail) => (answers.push(answer), failures.push(fail)))) as typeof api.POST,
  )
  render(
    <QueryClientProvider client={newQueries()}>
      <Preferences>
        <Page />
      </Preferences>
    </QueryClientProvider>,
  )
})

afterEach(() => {
  cleanup()
  vi.restoreAllMocks()
  vi.useRealTimers()
})

async function press() {
  act(() => screen.getByText('Heat off').click())
  await settle()
}

const heading = () => screen.getByRole('heading').textContent

test('only the controller’s word makes it off', async () => {
  await press()
  expect(heading()).toBe('Switching off…')
  answers[0]!(said({ confirmed: true }))
  await settle()
  expect(heading()).toBe('Heat is off')
})

test('a refusal, a lost server and a word that is not the controller’s are not off', async () => {
  await press()
  answers[0]!(said({ confirmed: false, said: 'nothing answers at 10.0.0.7' }))
  await settle()
  expect(heading()).toBe('Not confirmed — open the main switch')
  expect(screen.getByText(/Nothing answers at 10.0.0.7/)).toBeTruthy()

  act(() => screen.getByText('Try again').click())
  await settle()
  failures[1]!(new Error('gone'))
  await settle()
  expect(heading()).toBe('Not confirmed — open the main switch')
})

test('nothing heard for three seconds is said, and a later confirmation replaces it', async () => {
  await press()
  await settle(2900)
  expect(heading()).toBe('Switching off…')
  await settle(150)
  expect(heading()).toBe('Not confirmed — open the main switch')
  answers[0]!(said({ confirmed: true, in_book: false }))
  await settle()
  expect(heading()).toBe('Heat is off')
  expect(screen.getByText(/could not be written into the Book/)).toBeTruthy()
})

test('the answer to an earlier press says nothing of a later one', async () => {
  await press()
  await settle(3100)
  act(() => screen.getByText('Try again').click())
  await settle()
  answers[0]!(said({ confirmed: true }))
  await settle()
  expect(heading()).toBe('Switching off…')
})
