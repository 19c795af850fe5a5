// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react'
import { MemoryRouter } from 'react-router'
import { afterEach, expect, test, vi } from 'vitest'
import { api, type Rig, type Schemas } from '../api/client'
import { Preferences } from '../shell/preferences'
import { Driven } from './Driven'

vi.mock('../api/live', () => ({ useLive: () => ({ reading_c: 21 }) }))
vi.mock('../api/thisWindow', async (whole) => ({ ...(await whole<object>()), armedHere: () => true }))

afterEach(() => {
  cleanup()
  vi.restoreAllMocks()
})

function shown(view: Partial<Schemas['DrivenView']>) {
  const data = { now: null, cannot: [], heed: [], left_alone: '', tunes_itself: false, own_cannot: [], own_left_alone: '', ...view }
  const answered = (path: string) => Promise.resolve({ data: path.includes('relay') ? data : [], response: new Response() })
  vi.spyOn(api, 'GET').mockImplementation(answered as unknown as typeof api.GET)
  const post = vi.spyOn(api, 'POST').mockImplementation(answered as unknown as typeof api.POST)
  render(
    <MemoryRouter>
      <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
        <Preferences>
          <Driven rig={{ slug: 'r', revision: 3 } as unknown as Rig} setpoint={55} />
        </Preferences>
      </QueryClientProvider>
    </MemoryRouter>,
  )
  return post
}

test('a controller that can is let to tune itself by somebody who stays, also where no relay test may be made', async () => {
  const post = shown({ cannot: ['It takes no hysteresis.'], tunes_itself: true, own_left_alone: 'It tunes on by itself.' })
  const own = await screen.findByText<HTMLButtonElement>('Let it tune itself')
  expect(screen.getByText(/It tunes on by itself\./)).toBeTruthy()
  expect(own.disabled).toBe(true)
  fireEvent.click(screen.getByRole('checkbox'))
  expect(screen.getByText<HTMLButtonElement>('Make the test').disabled).toBe(true)
  expect(own.disabled).toBe(false)
  fireEvent.click(own)
  await waitFor(() => expect(post).toHaveBeenCalledOnce())
  expect(post.mock.calls[0]![1]).toMatchObject({ body: { setpoint_c: 55, stays: true, tunes_itself: true } })
})

test('what stands in its way is said, and one that cannot is not offered it', async () => {
  shown({ tunes_itself: true, own_cannot: ['It comes too near its limiter.'] })
  await screen.findByText('It comes too near its limiter.')
  fireEvent.click(screen.getByRole('checkbox'))
  expect(screen.getByText<HTMLButtonElement>('Let it tune itself').disabled).toBe(true)
  cleanup()
  shown({})
  await screen.findByText('Make the test')
  expect(screen.queryByText('Let it tune itself')).toBeNull()
})
