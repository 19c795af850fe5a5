import type { Quantity } from '../api/client'
import { mark } from './decimal'

export type Unit = 'C' | 'F'

export const absolute = (celsius: number, unit: Unit) => (unit === 'F' ? celsius * 1.8 + 32 : celsius)
export const difference = (celsius: number, unit: Unit) => (unit === 'F' ? celsius * 1.8 : celsius)
export const toCelsius = (value: number, unit: Unit) => (unit === 'F' ? (value - 32) / 1.8 : value)
export const differenceToCelsius = (value: number, unit: Unit) => (unit === 'F' ? value / 1.8 : value)

/** Units that do not change with the person reading. */
export const SYMBOL: Partial<Record<Quantity, string>> = {
  power: 'W',
  current: 'A',
  voltage: 'V',
  resistance: 'Ω',
  area: 'mm²',
  thermal_resistance: 'K/W',
  thermal_conductance: 'W/K',
  percent: '%',
  per_hour: '/h',
  time: 's',
  millimetres: 'mm',
  metres: 'm',
  surface: 'm²',
  conductivity: 'W/m·K',
  heat_transfer: 'W/m²K',
  energy: 'kWh',
  mass: 'kg',
  frequency: 'Hz',
  angle: '°',
  power_per_metre: 'W/m',
  surface_load: 'W/cm²',
  millivolts: 'mV',
  milliamperes: 'mA',
  let_through: 'A²s',
  flow: 'l/min',
}

/** A value of a kind, in the unit chosen: number text and unit apart, so that figures can be set in tabular numerals. */
export function quantity(value: number, kind: Quantity | null, unit: Unit): { text: string; unit: string } {
  if (!Number.isFinite(value)) return { text: '–', unit: '' }
  switch (kind) {
    case 'temperature':
      return { text: fixed(absolute(value, unit), 1), unit: `°${unit}` }
    case 'temperature_difference':
      return { text: fixed(difference(value, unit), Math.abs(value) < 1 ? 2 : 1), unit: `°${unit}` }
    case 'temperature_rate':
      return { text: significant(difference(value, unit)), unit: `°${unit}/min` }
    case 'process_gain':
      return { text: significant(difference(value, unit)), unit: `°${unit}/%` }
    case 'percent_per_degree':
      return { text: significant(unit === 'F' ? value / 1.8 : value), unit: `%/°${unit}` }
    case 'degree_time':
      return { text: significant(difference(value, unit)), unit: `°${unit}·s/%` }
    case 'time':
      return duration(value)
    case 'money':
      return { text: fixed(value, Math.abs(value) < 100 ? 2 : 0), unit: '' }
    case 'coefficient':
      return { text: spelled(value.toExponential(5)), unit: '' }
    case 'count':
      return { text: fixed(value, 0), unit: '' }
    default:
      return { text: significant(value), unit: (kind && SYMBOL[kind]) ?? '' }
  }
}

/** Seconds in the unit a person would say it in. */
export function duration(seconds: number): { text: string; unit: string } {
  const size = Math.abs(seconds)
  if (size > 0 && size < 0.995) return { text: significant(seconds * 1000), unit: 'ms' }
  if (size < 180) return { text: fixed(seconds, size < 10 ? 1 : 0), unit: 's' }
  if (size < 7200) return { text: fixed(seconds / 60, size < 1800 ? 1 : 0), unit: 'min' }
  if (size < 172800) return { text: fixed(seconds / 3600, 1), unit: 'h' }
  return { text: fixed(seconds / 86400, 1), unit: 'd' }
}

/** As it is read: a true minus, the decimal mark of the reader's language. */
const spelled = (text: string) => mark(text.replace(/^-/, '−'))

export const fixed = (value: number, digits: number) =>
  spelled((Object.is(Math.round(value * 10 ** digits), -0) ? 0 : value).toFixed(digits))

/** Three significant digits, without exponents for everyday sizes. */
export function significant(value: number): string {
  if (value === 0) return '0'
  const digits = Math.max(0, Math.min(4, 2 - Math.floor(Math.log10(Math.abs(value)))))
  const text = value.toFixed(digits)
  return spelled(digits > 0 ? text.replace(/\.?0+$/, '') : text)
}

/** A round temperature for a headline: 60 °C, 57.5 °C. */
export const round = (celsius: number, unit: Unit) => `${spelled(String(Math.round(absolute(celsius, unit) * 10) / 10))} °${unit}`

export const say = (value: number, kind: Quantity | null, unit: Unit) => {
  const q = quantity(value, kind, unit)
  return q.unit ? `${q.text} ${q.unit}` : q.text
}

/** With a capital, at the head of a line. */
export const capital = (text: string) => (text[0]?.toUpperCase() ?? '') + text.slice(1)
