import { expect, test } from 'vitest'
import { duration, quantity, significant } from './quantity'

test('a temperature converts with the 32, a difference without', () => {
  expect(quantity(100, 'temperature', 'F')).toEqual({ text: '212.0', unit: '°F' })
  expect(quantity(10, 'temperature_difference', 'F')).toEqual({ text: '18.0', unit: '°F' })
  expect(quantity(1, 'process_gain', 'F').text).toBe('1.8')
})

test('durations are said as a person would', () => {
  expect(duration(52)).toEqual({ text: '52', unit: 's' })
  expect(duration(620)).toEqual({ text: '10.3', unit: 'min' })
  expect(duration(2001600)).toEqual({ text: '23.2', unit: 'd' })
})

test('three significant digits without trailing zeros', () => {
  expect(significant(1.304)).toBe('1.3')
  expect(significant(176.33)).toBe('176')
  expect(significant(0.0123)).toBe('0.0123')
})
