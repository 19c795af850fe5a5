// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { act, cleanup, fireEvent, render, renderHook, screen, waitFor } from '@testing-library/react'
import type { ReactNode } from 'react'
import { BrowserRouter, Link } from 'react-router'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { useAddress, useInAddress } from '../api/address'
import { api, type Live, type Rig } from '../api/client'
import { THIS_WINDOW, useDisarmOnLeaving } from '../api/thisWindow'
import { useTrend } from '../bench/trend'
import { useLogFile } from '../runs/useLogFile'
import { usePage } from '../shell/usePage'
import { useStretch } from '../shared/Stretch'

beforeEach(() => window.history.replaceState(null, '', '/'))
afterEach(() => {
  cleanup()
  vi.restoreAllMocks()
  vi.unstubAllGlobals()
})

function Around({ children }: { children: ReactNode }) {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  return (
    <QueryClientProvider client={queries}>
      <BrowserRouter>{children}</BrowserRouter>
    </QueryClientProvider>
  )
}

const answers = (found: (path: string) => unknown) =>
  vi
    .spyOn(api, 'GET')
    .mockImplementation(((path: string) =>
      Promise.resolve({ data: found(path), response: new Response('{}') })) as unknown as typeof api.GET)

test('what is looked at stands in the address: only what it may be, several changes at once, and nothing for what is usual', () => {
  window.history.replaceState(null, '', '/?look=nonsense&stay=1')
  const { result } = renderHook(() => ({ look: useInAddress('look', 'values', ['values', 'keys']), change: useAddress() }), {
    wrapper: Around,
  })
  expect(result.current.look[0]).toBe('values')
  act(() => {
    result.current.look[1]('keys')
    result.current.change({ other: '2' })
  })
  expect(window.location.search).toBe('?look=keys&stay=1&other=2')
  expect(result.current.look[0]).toBe('keys')
  act(() => result.current.look[1]('values'))
  expect(window.location.search).toBe('?stay=1&other=2')
})

test('a window that goes away disarms what it armed, and nothing else', () => {
  const sent = vi.fn(() => Promise.resolve(new Response('{}')))
  vi.stubGlobal('fetch', sent)
  const { rerender } = renderHook(({ armed }) => useDisarmOnLeaving('kiln', armed), { initialProps: { armed: false } })
  fireEvent(window, new Event('pagehide'))
  expect(sent).not.toHaveBeenCalled()
  rerender({ armed: true })
  fireEvent(window, new Event('pagehide'))
  expect(sent).toHaveBeenCalledExactlyOnceWith(
    '/api/v1/rigs/kiln/link/arm',
    expect.objectContaining({ method: 'POST', keepalive: true, body: JSON.stringify({ armed: false, window: THIS_WINDOW }) }),
  )
  rerender({ armed: false })
  fireEvent(window, new Event('pagehide'))
  expect(sent).toHaveBeenCalledTimes(1)
})

function Pages() {
  usePage()
  return (
    <main>
      <h1>Heading</h1>
      <Link to="/rigs/kiln/tuning">on</Link>
    </main>
  )
}

test('a page is named after rig and station, and going to another one moves the focus to its heading', async () => {
  answers((path) => (path === '/api/v1/rigs' ? [{ slug: 'kiln', name: 'Grey kiln' }] : []))
  render(<Pages />, { wrapper: Around })
  expect(document.title).toBe('Workshop · Rellux')
  expect(document.activeElement).toBe(document.body)
  fireEvent.click(screen.getByText('on'))
  await waitFor(() => expect(document.title).toBe('Tuning · Grey kiln · Rellux'))
  await waitFor(() => expect(document.activeElement).toBe(screen.getByText('Heading')))
})

test('the course is of the run while one is recorded, with its gaps', async () => {
  answers(() => ({ time_s: [0, 1, 2], reading_high: [20, null, 21], setpoint: [60, 60] }))
  const live = { status: 'online', recording: 3, run_time_s: 2 } as unknown as Live
  const { result } = renderHook(() => useTrend('kiln', live, 300), { wrapper: Around })
  await waitFor(() =>
    expect(result.current).toEqual([
      [0, 20, 60],
      [1, null, 60],
      [2, 21, null],
    ]),
  )
})

test('a stretch begins as the whole, and is set by its ends', () => {
  const { result } = renderHook(() => useStretch())
  expect(result.current.from).toBeUndefined()
  act(() => result.current.set(10, 20))
  expect([result.current.from, result.current.to]).toEqual([10, 20])
  act(() => result.current.set())
  expect(result.current.to).toBeUndefined()
})

test('a log that is too large is refused before anything is sent', async () => {
  const opened = vi.spyOn(XMLHttpRequest.prototype, 'open')
  const { result } = renderHook(() => useLogFile({ slug: 'kiln' } as Rig), { wrapper: Around })
  const file = new File(['time,reading'], 'long.csv')
  Object.defineProperty(file, 'size', { value: 300 * 1024 * 1024 })
  await act(async () => expect(await result.current.take(file)).toBeNull())
  expect(result.current.error).toMatchObject({ problems: [{ field: 'file', accepted: expect.stringContaining('200 MB') as unknown }] })
  expect(opened).not.toHaveBeenCalled()
})
