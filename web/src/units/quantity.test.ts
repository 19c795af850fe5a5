import { expect, test } from 'vitest'
import { duration, localise, quantity, significant } from './quantity'

test('a temperature converts with the 32, a difference without', () => {
  expect(quantity(100, 'temperature', 'F')).toEqual({ text: '212.0', unit: '°F' })
  expect(quantity(10, 'temperature_difference', 'F')).toEqual({ text: '18.0', unit: '°F' })
  expect(quantity(1, 'process_gain', 'F').text).toBe('1.8')
})

test('sentences convert, telling differences by their word joiner', () => {
  expect(localise('up to 60 °C, swings ±2.0\u2060 °C', 'F')).toBe('up to 140 °F, swings ±3.6 °F')
  expect(localise('−40 °C', 'F')).toBe('−40 °F')
  expect(localise('60 °C', 'C')).toBe('60 °C')
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
