// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { afterEach, expect, test } from 'vitest'
import { Preferences } from '../shell/preferences'
import { CoolerFields } from './CoolerFields'
import { complete, type TypedCooler } from './form'

afterEach(cleanup)

const WORDS = [
  {
    name: 'cooled_by',
    label: 'Cooled by',
    kind: null,
    choices: [
      ['fan', 'A fan cools it'],
      ['valve', 'Water cools it'],
      ['compressor', 'A compressor cools it'],
      ['turned', 'The module that heats it, turned round'],
    ],
  },
  { name: 'cooler_w', label: 'Heat it takes out', kind: 'power', choices: [] },
  { name: 'drive_w', label: 'What cools it draws', kind: 'power', choices: [] },
  { name: 'coolant_c', label: 'Water that comes in', kind: 'temperature', choices: [] },
  { name: 'coldest_c', label: 'Takes out nothing any more at', kind: 'temperature', choices: [] },
]

function Form({ told }: { told: (cooler: TypedCooler | null) => void }) {
  const [cooler, setCooler] = useState<TypedCooler | null>(null)
  const wrong = { field: 'cooler.drive_w', reason: 'is too much', accepted: '' }
  return (
    <CoolerFields
      cooler={cooler}
      onChange={(next) => {
        setCooler(next)
        told(next)
      }}
      problem={(field) => (field === wrong.field ? wrong : undefined)}
    />
  )
}

test('what cools it asks for no more than applies, and forgets what does not', async () => {
  const queries = new QueryClient()
  queries.setQueryData(['fields'], WORDS)
  const user = userEvent.setup()
  let told: TypedCooler | null = null
  render(
    <QueryClientProvider client={queries}>
      <Preferences>
        <Form told={(cooler) => (told = cooler)} />
      </Preferences>
    </QueryClientProvider>,
  )
  expect(screen.queryByLabelText('Heat it takes out')).toBeNull()
  await user.selectOptions(screen.getByLabelText('Cooled by'), 'valve')
  await user.type(screen.getByLabelText(/Water that comes in/), '14')
  await user.type(screen.getByLabelText(/Heat it takes out/), '350')
  expect(told).toEqual({ cooled_by: 'valve', cooler_w: 350, drive_w: null, coolant_c: 14, coldest_c: null })
  expect(screen.getByText(/is too much/)).toBeTruthy()
  await user.selectOptions(screen.getByLabelText('Cooled by'), 'compressor')
  await user.type(screen.getByLabelText(/nothing any more/), '2')
  expect(told).toEqual({ cooled_by: 'compressor', cooler_w: 350, drive_w: null, coolant_c: null, coldest_c: 2 })
  await user.type(screen.getByLabelText(/What cools it draws/), '90')
  await user.selectOptions(screen.getByLabelText('Cooled by'), 'turned')
  expect(screen.queryByLabelText(/What cools it draws/)).toBeNull()
  expect(told).toEqual({ cooled_by: 'turned', cooler_w: 350, drive_w: null, coolant_c: null, coldest_c: 2 })
  await user.selectOptions(screen.getByLabelText('Cooled by'), 'fan')
  expect(screen.queryByLabelText(/Water that comes in/)).toBeNull()
  expect(told).toEqual({ cooled_by: 'fan', cooler_w: 350, drive_w: null, coolant_c: null, coldest_c: null })
  await user.selectOptions(screen.getByLabelText('Cooled by'), 'nature')
  expect(told).toBeNull()
})

test('what it draws is asked of every cooler but the heater itself', () => {
  const wanting = (cooled_by: TypedCooler['cooled_by']) =>
    complete.shape.cooler.safeParse({ cooled_by, cooler_w: 60, drive_w: null }).success
  expect(['fan', 'module', 'turned'].map((by) => wanting(by as TypedCooler['cooled_by']))).toEqual([false, false, true])
})
