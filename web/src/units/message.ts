import { mark } from './decimal'
import type { Unit } from './quantity'

/** A quantity in a message of the server: ``{60 °C}``, ``{0.1…0.5 Δ°C}``, ``{~812 °C}``, ``{13.2 A}``. See docs/messages.md. */
const PLACE = /\{(~?)(\+?)([-−]?\d+(?:\.\d+)?(?:e[+-]?\d+)?)(?:…([-−]?\d+(?:\.\d+)?(?:e[+-]?\d+)?))?(?: ?([^{}\d\s][^{}\s]*))?\}/g
const DIFFERENCE = 'Δ°C'
/** A number and its unit stay on one line. */
const UNBROKEN = '\u00a0'

/** A message of the server for its reader: °C or °F, and the decimal mark of the browser's language. */
export function said(message: string, unit: Unit): string {
  return message.replace(PLACE, (_all, about: string, sign: string, first: string, last: string | undefined, symbol = '') => {
    const numbers = last === undefined ? [first] : [first, last]
    const fahrenheit = unit === 'F' && symbol.includes('°C')
    const shown = symbol.replace(DIFFERENCE, '°C')
    const written = numbers.map((n) => mark((fahrenheit ? inFahrenheit(n, symbol, about !== '') : n).replace(/^-/, '−')))
    const space = symbol === '' || symbol === '°' || symbol === '/h' ? '' : UNBROKEN
    return sign + written.join('…') + space + (fahrenheit ? shown.replace('°C', '°F') : shown)
  })
}

/** With the 32 only for a temperature; rounded as finely as it was written, to tenths where it was whole. */
function inFahrenheit(number: string, symbol: string, about: boolean): string {
  const celsius = Number(number.replace('−', '-'))
  const value = symbol === '°C' ? celsius * 1.8 + 32 : symbol.endsWith('/°C') ? celsius / 1.8 : celsius * 1.8
  const decimals = number.split('.')[1]?.length ?? 0
  if (about) return value.toFixed(Math.abs(value) >= 10 || symbol === '°C' ? 0 : 1)
  if (decimals) return value.toFixed(decimals)
  return Math.abs(value) < 1e5 ? String(Math.round(value * 10) / 10) : value.toFixed(0)
}
