// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { type ReactNode, useState } from 'react'
import { afterEach, expect, test } from 'vitest'
import { Preferences } from '../shell/preferences'
import { ControlsFields } from './ControlsFields'
import type { TypedControls, TypedOwnMains } from './form'
import { OwnMainsFields } from './OwnMainsFields'

afterEach(cleanup)

const WORDS = [
  { name: 'controls', label: 'What feeds the controls', kind: null, choices: [] },
  {
    name: 'fed_by',
    label: 'Controls are fed by',
    kind: null,
    choices: [
      ['mains', 'Mains of their own'],
      ['dc', 'DC of their own'],
      ['module', 'A DC supply module'],
    ],
  },
  { name: 'made_w', label: 'It gives for hours', kind: 'power', choices: [] },
  {
    name: 'made_by',
    label: 'The mains are made by',
    kind: null,
    choices: [
      ['generator', 'A generator'],
      ['inverter', 'An inverter'],
    ],
  },
  { name: 'controls_v', label: 'Voltage of the controls', kind: 'voltage', choices: [] },
]

function Form({ mains, told }: { mains: boolean; told: (controls: TypedControls | null) => void }) {
  const [controls, setControls] = useState<TypedControls | null>(null)
  const wrong = { field: 'controls.controls_v', reason: 'no controls are fed with that', accepted: '' }
  return (
    <ControlsFields
      controls={controls}
      mains={mains}
      usual_v={{ mains: 230, dc: 24 }}
      onChange={(next) => {
        setControls(next)
        told(next)
      }}
      problem={(field) => (field === wrong.field ? wrong : undefined)}
    />
  )
}

function around(what: ReactNode) {
  const queries = new QueryClient()
  queries.setQueryData(['fields'], WORDS)
  render(
    <QueryClientProvider client={queries}>
      <Preferences>{what}</Preferences>
    </QueryClientProvider>,
  )
}

const shown = (mains: boolean, told: (controls: TypedControls | null) => void) => around(<Form mains={mains} told={told} />)

test('what feeds the controls begins at what they are usually made for, and says what is wrong with it', async () => {
  const user = userEvent.setup()
  let told: TypedControls | null = null
  shown(true, (controls) => (told = controls))
  expect(screen.queryByLabelText(/Voltage of the controls/)).toBeNull()
  const by = screen.getByLabelText('Controls are fed by')
  await user.selectOptions(by, 'A DC supply module')
  expect(told).toEqual({ fed_by: 'module', controls_v: 24 })
  expect(screen.getByText(/no controls are fed with that/)).toBeTruthy()
  await user.selectOptions(by, 'Mains of their own')
  expect(told).toEqual({ fed_by: 'mains', controls_v: 230 })
  await user.clear(screen.getByLabelText(/Voltage of the controls/))
  await user.type(screen.getByLabelText(/Voltage of the controls/), '120')
  expect(told).toEqual({ fed_by: 'mains', controls_v: 120 })
  await user.selectOptions(by, 'The heater’s supply')
  expect(told).toBeNull()
})

test('from a DC supply no module makes DC', () => {
  shown(false, () => {})
  expect(screen.queryByText('A DC supply module')).toBeNull()
  expect(screen.getByText('DC of their own')).toBeTruthy()
})

function Mains({ told }: { told: (own: TypedOwnMains | null) => void }) {
  const [own, setOwn] = useState<TypedOwnMains | null>(null)
  return (
    <OwnMainsFields
      own={own}
      onChange={(next) => {
        setOwn(next)
        told(next)
      }}
      problem={(field) => (field === 'own_mains.made_w' ? { field, reason: 'looks like a slip of unit', accepted: '' } : undefined)}
    />
  )
}

test('what makes the mains keeps its power while that is another kind, and forgets it with the public network', async () => {
  const user = userEvent.setup()
  let told: TypedOwnMains | null = null
  around(<Mains told={(own) => (told = own)} />)
  const by = screen.getByLabelText('The mains are made by')
  await user.selectOptions(by, 'A generator')
  await user.type(screen.getByLabelText(/It gives for hours/), '2500')
  expect(screen.getByText(/slip of unit/)).toBeTruthy()
  await user.selectOptions(by, 'An inverter')
  expect(told).toEqual({ made_by: 'inverter', made_w: 2500 })
  await user.selectOptions(by, 'The public network')
  expect(told).toBeNull()
  expect(screen.queryByLabelText(/It gives for hours/)).toBeNull()
})
