import { expect, test } from 'vitest'
import cases from '../../../tests/messages.json'
import { said } from './message'

test.each(cases)('$message reads $C and $F', ({ message, C, F }) => {
  expect(said(message, 'C')).toBe(C)
  expect(said(message, 'F')).toBe(F)
})
