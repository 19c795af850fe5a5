// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, fireEvent, render, screen } from '@testing-library/react'
import { afterEach, expect, test, vi } from 'vitest'
import type { Schemas } from '../api/client'
import { Preferences } from '../shell/preferences'
import type { ChamberView } from './data'
import { HeatUp } from './HeatUp'

const zone = (name: string, setpoint_c: number, begins_s: number | null, holds_s: number | null): Schemas['ZoneHeatUp'] => ({
  slug: name,
  name,
  setpoint_c,
  reading_c: [20, setpoint_c / 2, setpoint_c],
  begins_s,
  holds_s,
  over_c: 1.5,
})
const chamber = { id: 1, revision: 1, zones: [], findings: [], supply_w: 2000 } as unknown as ChamberView
const answers: Record<string, Schemas['HeatUpView']> = {
  false: { turns: false, time_s: [0, 600, 1200], zones: [zone('front', 900, 0, 900)], holds_s: 900, most_w: 2600, draws: 'At once 2600.' },
  true: {
    turns: true,
    time_s: [0, 600, 1200],
    zones: [zone('front', 900, 0, null), zone('back', 800, null, null)],
    holds_s: null,
    most_w: 2600,
    draws: 'More than there is.',
  },
}
vi.mock('../api/client', async (original) => ({
  ...(await original<object>()),
  api: {
    GET: (_: string, { params }: { params: { query: { turns: boolean } } }) =>
      Promise.resolve({ data: answers[String(params.query.turns)] }),
  },
  need: async (answer: Promise<{ data: unknown }>) => (await answer).data,
}))

afterEach(cleanup)

test('what is told follows the start that was chosen, and one that never begins says why', async () => {
  render(
    <QueryClientProvider client={new QueryClient()}>
      <Preferences>
        <HeatUp chamber={chamber} />
      </Preferences>
    </QueryClientProvider>,
  )
  expect(await screen.findByText(/All hold after 15 min. At once 2600/)).toBeTruthy()
  fireEvent.click(screen.getByText('One after the other'))
  expect(await screen.findByText(/Not all of them ever hold/)).toBeTruthy()
  expect(screen.getByText(/More than there is/)).toBeTruthy()
  expect(screen.getByText(/never begins: the one before it never holds/)).toBeTruthy()
})
