import type { Quantity } from '../api/client'
import { absolute, difference, differenceToCelsius, toCelsius, type Unit } from './quantity'

/** A value of the core as it stands in a field, in the unit chosen. */
export function shown(value: number | null, kind: Quantity | undefined, unit: Unit): string {
  if (value == null || Number.isNaN(value)) return ''
  const converted = kind === 'temperature' ? absolute(value, unit) : kind === 'temperature_difference' ? difference(value, unit) : value
  return String(Math.round(converted * 1000) / 1000)
}

/** What was typed as a value of the core; null for nothing, or for what is no number. */
export function parsed(text: string, kind: Quantity | undefined, unit: Unit): number | null {
  const number = Number(text.trim().replace(',', '.').replace('−', '-'))
  if (!text.trim() || !Number.isFinite(number)) return null
  return kind === 'temperature' ? toCelsius(number, unit) : kind === 'temperature_difference' ? differenceToCelsius(number, unit) : number
}
