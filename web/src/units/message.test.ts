import { expect, test } from 'vitest'
import cases from '../../../tests/messages.json'
import { said } from './message'

const spaced = (text: string) => text.replaceAll('\u00a0', ' ')

test.each(cases)('$message reads $C and $F', ({ message, C, F }) => {
  expect(spaced(said(message, 'C'))).toBe(C)
  expect(spaced(said(message, 'F'))).toBe(F)
})

test('a number stays with its unit', () => {
  expect(said('Lower it to {60 °C}.', 'C')).toBe('Lower it to 60\u00a0°C.')
})
