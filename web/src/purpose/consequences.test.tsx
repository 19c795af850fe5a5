// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, render, screen, within } from '@testing-library/react'
import { MemoryRouter } from 'react-router'
import { afterEach, expect, test } from 'vitest'
import type { Schemas } from '../api/client'
import { Preferences } from '../shell/preferences'
import { Consequences, hangs } from './Consequences'

afterEach(cleanup)

const hanging = (rule: string, title: string) =>
  ({ station: 'guarding', finding: { rule, severity: 'danger', title, reason: 'r', fix: 'Lower it', subjects: [], figures: [] } }) as never
const NOTHING: Schemas['PurposeTrialView'] = { parts: [], new: [], settled: [], gone: [], neighbours: [] }
const back = (told: object) => ({ slug: 'back', name: 'Back', new: [], settled: [], ...told })

test('what it means for another zone is shown at its name, and asks to be looked at', () => {
  const told = { ...NOTHING, neighbours: [back({ new: [hanging('a', 'It gets hotter than it may')] }), back({ slug: 'mid', name: 'Mid' })] }
  expect(hangs(told)).toBe(true)
  render(
    <QueryClientProvider client={new QueryClient()}>
      <Preferences>
        <MemoryRouter>
          <Consequences trial={told} />
        </MemoryRouter>
      </Preferences>
    </QueryClientProvider>,
  )
  const zone = screen.getByRole('region', { name: 'At Back' })
  expect(within(zone).getByText('It gets hotter than it may.')).toBeTruthy()
  expect(within(zone).getByRole('link', { name: 'Back' }).getAttribute('href')).toBe('/rigs/back')
  expect(screen.queryByText('Mid')).toBeNull()
})

test('what only settles something at a neighbour stops nobody', () => {
  expect(hangs({ ...NOTHING, neighbours: [back({ settled: [hanging('a', 'x')] })] })).toBe(false)
  expect(hangs(NOTHING)).toBe(false)
})
