// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react'
import { afterEach, expect, test, vi } from 'vitest'
import { EMPTY } from './editing'
import { FrontPanel } from './FrontPanel'

const answers = vi.hoisted(() => ({ asked: [] as number[] }))

vi.mock('../shell/preferences', () => ({ usePreferences: () => ({ unit: 'C' }) }))
vi.mock('../api/client', () => ({
  need: (answer: Promise<unknown>) => answer,
  api: {
    POST: async (_path: string, { body }: { body: { page: number; gesture: unknown } }) => {
      if (body.gesture) answers.asked.push(body.page)
      await new Promise((done) => setTimeout(done, 20))
      return {
        page: body.gesture ? body.page + 1 : 0,
        values: [],
        pending: null,
        group: '',
        lost: '',
        guarded: '',
        display: { code: '', value: '', cursor: -1 },
      }
    },
  },
}))

afterEach(cleanup)

test('keys pressed faster than the answers come all count, one after another', async () => {
  const description = { ...EMPTY, keys: ['UP'] }
  render(
    <QueryClientProvider client={new QueryClient()}>
      <FrontPanel description={description} values={[]} reading="21" />
    </QueryClientProvider>,
  )
  const key = await screen.findByRole('button', { name: 'Press UP' })
  for (let i = 0; i < 3; i++) fireEvent.click(key)
  await waitFor(() => expect(answers.asked).toEqual([0, 1, 2]))
})
