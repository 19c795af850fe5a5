// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react'
import { afterEach, expect, test, vi } from 'vitest'
import { api, type Rig } from '../api/client'
import { Preferences } from '../shell/preferences'
import type { RigController } from './data'
import { ReadBack } from './ReadBack'

const READING = {
  pages: [{ key: 'C1', code: 'C1', title: 'Kind', shows: 'u.2' }, { key: 'C2', code: 'C2', title: 'Band', shows: '15.0' }],
  steps: [{ says: 'Hold ◆ 9 s.', code: 'C1', value: 'u.2', page: 'C1', sets: '', warns: '', gestures: 1 }],
  unchecked: '',
} // prettier-ignore

afterEach(() => {
  cleanup()
  vi.restoreAllMocks()
})

test('what it found is kept once every page is read, all at once', async () => {
  const answered = (data: unknown) => Promise.resolve({ data, response: new Response() })
  vi.spyOn(api, 'GET').mockImplementation(((path: string) =>
    answered(path.endsWith('reading') ? READING : [])) as unknown as typeof api.GET)
  const post = vi.spyOn(api, 'POST').mockImplementation((() => answered({})) as unknown as typeof api.POST)
  const rig = { slug: 'r', revision: 3 } as unknown as Rig
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <Preferences>
        <ReadBack rig={rig} data={{ revision: 3 } as unknown as RigController} page="C1" />
      </Preferences>
    </QueryClientProvider>,
  )
  fireEvent.click(screen.getByText('It has finished: read what it found'))
  await screen.findByText('Hold ◆ 9 s.')
  const keep = screen.getByText<HTMLButtonElement>('Keep as found')
  fireEvent.change(screen.getByLabelText('C2 Band'), { target: { value: '8.4' } })
  expect(keep.disabled).toBe(true) // one is not read yet
  fireEvent.change(screen.getByLabelText('C1 Kind'), { target: { value: 'u.2' } })
  fireEvent.click(keep)
  await waitFor(() => expect(screen.queryByText('Keep as found')).toBeNull())
  const body = { revision: 3, read: [{ page: 'C2', shows: '8.4' }, { page: 'C1', shows: 'u.2' }], tuned: true } // prettier-ignore
  expect(post.mock.calls[0]![1]).toMatchObject({ body })
})
