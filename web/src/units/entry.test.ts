import { expect, test } from 'vitest'
import { parsed, shown } from './entry'

test('a temperature is typed in the unit chosen and kept in °C; a difference without the 32', () => {
  expect(parsed('212', 'temperature', 'F')).toBeCloseTo(100)
  expect(parsed('18', 'temperature_difference', 'F')).toBeCloseTo(10)
  expect(parsed('230', 'voltage', 'F')).toBe(230)
})

test('comma, minus sign and blanks are understood, words are not', () => {
  expect(parsed(' 57,5 ', 'temperature', 'C')).toBe(57.5)
  expect(parsed('−3.5', 'temperature_difference', 'C')).toBe(-3.5)
  expect([parsed('', 'power', 'C'), parsed('hot', 'temperature', 'C'), parsed('1,2,3', 'power', 'C')]).toEqual([null, null, null])
})

test('what is typed in Fahrenheit comes back as it was typed', () => {
  for (const typed of ['32', '140', '99.9', '-40', '1112.5']) {
    expect(shown(parsed(typed, 'temperature', 'F'), 'temperature', 'F')).toBe(typed)
    expect(shown(parsed(typed, 'temperature_difference', 'F'), 'temperature_difference', 'F')).toBe(typed)
  }
})

test('a field without a value is empty', () => {
  expect([shown(null, 'power', 'C'), shown(NaN, 'temperature', 'F')]).toEqual(['', ''])
})
