import { expect, test } from 'vitest'
import type { Schemas } from '../api/client'
import { valuesAt } from './History'

test('an old sheet is the present one with every newer change taken back', () => {
  const parameters = [
    { name: 'setpoint_c', value: 60, proposed: 50 },
    { name: 'offset_c', value: -0.5, proposed: 0 },
    { name: 'mode', value: null, proposed: 'pid' },
  ] as unknown as Schemas['ParameterView'][]
  const history = [
    { before: { setpoint_c: 58 }, after: { setpoint_c: 60 } },
    { before: { setpoint_c: 40, offset_c: 0.3 }, after: { setpoint_c: 58, offset_c: -0.5 } },
    { before: {}, after: { setpoint_c: 40, offset_c: 0.3 } },
  ] as unknown as Schemas['SheetChange'][]
  expect(valuesAt(history, parameters, 0)).toEqual({ setpoint_c: 60, offset_c: -0.5, mode: 'pid' })
  expect(valuesAt(history, parameters, 1)).toEqual({ setpoint_c: 58, offset_c: -0.5, mode: 'pid' })
  expect(valuesAt(history, parameters, 2)).toEqual({ setpoint_c: 40, offset_c: 0.3, mode: 'pid' })
})
