// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { afterEach, expect, test } from 'vitest'
import { Preferences } from '../shell/preferences'
import type { TypedHeaterSensor } from './form'
import { HeaterSensorFields } from './HeaterSensorFields'

afterEach(cleanup)

const WORDS = [
  { name: 'heater_sensor.most_c', label: 'The heater’s sensor may show at most', kind: 'temperature', choices: [] },
  { name: 'hotter_c', label: 'While it holds, that shows more by', kind: 'temperature_difference', choices: [] },
  { name: 'heater_sensor.lag_s', label: 'Heat off, it comes down with', kind: 'time', choices: [] },
]

function Form({ told }: { told: (sensor: TypedHeaterSensor | null) => void }) {
  const [sensor, setSensor] = useState<TypedHeaterSensor | null>(null)
  return (
    <HeaterSensorFields
      sensor={sensor}
      onChange={(next) => {
        setSensor(next)
        told(next)
      }}
      problem={(field) => (field === 'heater_sensor.most_c' ? { field, reason: 'is too little', accepted: '' } : undefined)}
    />
  )
}

test('one loop asks for nothing; two need the most the heater may show, and take the rest as usual', async () => {
  const queries = new QueryClient()
  queries.setQueryData(['fields'], WORDS)
  const user = userEvent.setup()
  let told: TypedHeaterSensor | null = null
  render(
    <QueryClientProvider client={queries}>
      <Preferences>
        <Form told={(sensor) => (told = sensor)} />
      </Preferences>
    </QueryClientProvider>,
  )
  expect(screen.queryByLabelText(/may show at most/)).toBeNull()
  await user.click(screen.getByText('Two: one at the heater'))
  expect(told).toEqual({ most_c: null, hotter_c: null, lag_s: null })
  await user.type(screen.getByLabelText(/may show at most/), '330')
  await user.type(screen.getByLabelText(/comes down with/), '40')
  expect(told).toEqual({ most_c: 330, hotter_c: null, lag_s: 40 })
  expect(screen.getByText(/is too little/)).toBeTruthy()
  await user.click(screen.getByText('One loop'))
  expect(told).toBeNull()
})
