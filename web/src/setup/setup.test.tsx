// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen, within } from '@testing-library/react'
import type { ReactNode } from 'react'
import { afterEach, expect, test, vi } from 'vitest'
import { Refusal, type Schemas } from '../api/client'
import { Preferences } from '../shell/preferences'
import { Reasons } from '../shell/reason'
import { History } from './History'
import { ParameterTable, type Values } from './ParameterTable'

afterEach(cleanup)

type Parameter = Schemas['ParameterView']
const line = (name: string, group: string, title: string, proposed: Parameter['proposed'], more: Partial<Parameter> = {}): Parameter => ({
  name, title, group, meaning: '', kind: typeof proposed === 'number' ? 'temperature' : null, low: 0, high: 500, choices: [], applies: [],
  wanted_here: true, proposed, reason: 'because', value: null, ...more,
}) // prettier-ignore
const PARAMETERS = [
  line('setpoint_c', 'Control', 'Set-point', 60),
  line('mode', 'Control', 'Control mode', 'on_off', { choices: [['on_off', 'On/off'], ['pid', 'PID']] }), // prettier-ignore
  line('band_c', 'PID', 'Proportional band', 5, { kind: 'temperature_difference', applies: [{ name: 'mode', values: ['pid'] }] }),
  line('alarm_1_type', 'Alarm 1', 'Alarm 1', 'high', { choices: [['off', 'Off'], ['high', 'Too hot']] }), // prettier-ignore
  line('alarm_1_at_c', 'Alarm 1', 'Alarm 1 at', 66, { applies: [{ name: 'alarm_1_type', values: ['high'] }] }),
  line('baud', 'Link', 'Baud', '9600', { choices: [['9600', '9600']], wanted_here: false }),
]
const AS_PROPOSED = Object.fromEntries(PARAMETERS.map((p) => [p.name, p.proposed])) as Values
const shown = (inside: ReactNode) =>
  render(
    <Preferences>
      <Reasons>{inside}</Reasons>
    </Preferences>,
  )
const table = (values: Values, error: unknown = null) => {
  const onChange = vi.fn()
  shown(<ParameterTable parameters={PARAMETERS} values={values} onChange={onChange} error={error} />)
  return onChange
}
const group = (words: string) =>
  screen.getAllByRole('button').find((b) => b.getAttribute('aria-expanded') && b.textContent!.includes(words))!
const folded = (words: string) => group(words).getAttribute('aria-expanded') === 'false'

test('what is as proposed is folded to one line that says what it is, and opens', () => {
  table(AS_PROPOSED)
  expect(folded('Too hot, all 2 as proposed')).toBe(true)
  expect(folded('Control')).toBe(false)
  fireEvent.click(group('Too hot'))
  expect(screen.getByLabelText('Alarm 1 at')).toBeTruthy()
})

test('a group with something else in it, or something wrong, stands open', () => {
  table({ ...AS_PROPOSED, alarm_1_at_c: 67 })
  expect(folded('Alarm 1')).toBe(false)
  cleanup()
  table(AS_PROPOSED, new Refusal('no', [{ field: 'baud', reason: 'no such speed', accepted: '9600' }], 400))
  expect(screen.getByLabelText('Baud')).toBeTruthy()
})

test('what hangs on another choice goes with it; what only the mode switches off stays, greyed', () => {
  table({ ...AS_PROPOSED, alarm_1_type: 'off' })
  expect(screen.queryByLabelText('Alarm 1 at')).toBeNull()
  expect(screen.getByText(', not in this mode')).toBeTruthy()
})

test('parameters without a page are behind one press, and a typed value is handed on', () => {
  const onChange = table(AS_PROPOSED)
  expect(screen.queryByText(/^Link/)).toBeNull()
  fireEvent.click(screen.getByRole('button', { name: '1 more that this controller has no page for' }))
  expect(folded('Baud 9600, as proposed')).toBe(true)
  fireEvent.change(screen.getByLabelText('Control mode'), { target: { value: 'pid' } })
  expect(onChange).toHaveBeenCalledWith('mode', 'pid')
})

test('any two saved sheets are compared, whoever saved them', () => {
  const at = (day: number) => `2026-11-0${day}T09:00:00Z`
  const history = [
    { at: at(3), kind: 'as_left', why: '', who: 'Technician', before: { setpoint_c: 58 }, after: { setpoint_c: 60 } },
    { at: at(2), kind: 'as_found', why: '', who: '', before: { setpoint_c: 40 }, after: { setpoint_c: 58 } },
    { at: at(1), kind: 'as_left', why: 'first', who: '', before: {}, after: { setpoint_c: 40 } },
  ] as Schemas['SheetChange'][]
  const parameters = [line('setpoint_c', 'Control', 'Set-point', 50, { value: 60 }), line('offset_c', 'Input', 'Offset', 0)]
  const onBack = vi.fn()
  shown(<History history={history} parameters={parameters} onBack={onBack} />)
  expect(screen.getByText(', Technician')).toBeTruthy()
  fireEvent.change(screen.getByLabelText('Between'), { target: { value: '2' } })
  const apart = within(screen.getByRole('table', { name: 'What differs' }))
  expect(apart.getAllByRole('cell').map((c) => c.textContent)).toEqual(['Set-point', '40.0 °C', '60.0 °C'])
  fireEvent.change(screen.getByLabelText('and'), { target: { value: '2' } })
  expect(screen.getByText('Nothing differs between them.')).toBeTruthy()
  fireEvent.click(screen.getAllByRole('button', { name: 'Back to this' })[1]!)
  expect(onBack).toHaveBeenCalledWith({ setpoint_c: 40, offset_c: 0 })
})
