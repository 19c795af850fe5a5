import { expect, test } from 'vitest'
import { complete, draftOf, EMPTY } from './form'

test('an empty form is asked for what is missing, by field', () => {
  const checked = complete.safeParse(EMPTY)
  const fields = checked.error?.issues.map((i) => i.path[0])
  expect(fields).toEqual(['name', 'working_c', 'highest_c', 'highest_reason', 'heater_power_w'])
})

test('a lower limit is optional', () => {
  const draft = { ...EMPTY, name: 'Oven', working_c: 80, highest_c: 100, highest_reason: 'burns', heater_power_w: 500 }
  expect(complete.safeParse(draft).success).toBe(true)
})

test('a rig fills its own form again', () => {
  const purpose = {
    working_c: 60,
    highest_c: 68,
    highest_reason: 'x',
    lowest_c: null,
    lowest_reason: '',
    ambient_c: 21,
    supply: 'dc',
    supply_voltage_v: 24,
    heater_power_w: 60,
    heater_voltage_v: 24,
  }
  const rig = { slug: 'a', name: 'A', kind: 'plate', revision: 3, purpose, choice: null, spine: [], next: {}, live: {} }
  expect(draftOf(rig as never)).toMatchObject({ name: 'A', kind: 'plate', supply: 'dc', lowest_c: null })
})
