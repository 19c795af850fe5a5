import type { Quantity } from '../api/client'
import { say, type Unit } from './quantity'

const DIFFERENCES = new Set(['hysteresis_c', 'offset_c', 'proportional_band_c', 'error_c', 'uncertainty_c'])

function kindOf(name: string): Quantity | null {
  if (DIFFERENCES.has(name)) return 'temperature_difference'
  if (name.endsWith('_c')) return 'temperature'
  if (name.endsWith('_s')) return 'time'
  if (name.endsWith('_w')) return 'power'
  if (name.endsWith('_v')) return 'voltage'
  if (name.endsWith('_mm2')) return 'area'
  return name === 'gain' ? 'process_gain' : null
}

/** A stored value in words, its unit told by its name: ``highest_c`` is a temperature. */
export function sayField(name: string, value: unknown, unit: Unit): string {
  if (value == null || value === '') return '–'
  if (typeof value === 'number') return say(value, kindOf(name), unit)
  return typeof value === 'object' ? JSON.stringify(value) : String(value)
}
