import type { Quantity } from '../api/client'
import { mark, writesComma } from './decimal'
import { absolute, difference, differenceToCelsius, SYMBOL, toCelsius, type Unit } from './quantity'

/** A value of the core as it stands in a field, in the unit chosen. */
export function shown(value: number | null, kind: Quantity | undefined, unit: Unit): string {
  if (value == null || Number.isNaN(value)) return ''
  const converted = kind === 'temperature' ? absolute(value, unit) : isDifference(kind) ? difference(value, unit) : value
  return mark(String(Math.round(converted * 1000) / 1000))
}

const isDifference = (kind: Quantity | undefined) => kind === 'temperature_difference' || kind === 'temperature_rate'

/** What was typed: the value of the core, or what is wrong with it in words. ``says``: the number as read, where it looks different. */
export interface Entry {
  value: number | null
  says: string
  wrong: string
}

const NUMBER = /^([+-]?)([\d.,' ]*\d)\s*(.*)$/
const GROUPED = /^\d{1,3}(?:([ ',.])\d{3})(?:\1\d{3})*$/
/** What the server takes too. */
const LARGEST = 1e9
const nothing = (wrong = ''): Entry => ({ value: null, says: '', wrong })

/** Read a number as people write it. What can be read in two ways is refused with both; ``comma``: the reader's decimal mark. */
export function entry(text: string, kind: Quantity | undefined, unit: Unit, comma = writesComma()): Entry {
  const plain = text
    .replace(/[\u00a0\u2009\u202f]/g, ' ')
    .replace(/[−–]/g, '-')
    .trim()
  if (!plain) return nothing()
  const found = NUMBER.exec(plain)
  if (!found || /^[+-]?0\d/.test(plain) || /^[+-]?0[xob]/i.test(plain)) return nothing(`“${text.trim()}” is not a number`)
  const [, sign = '', number = '', behind = ''] = found
  const digits = figures(number, comma)
  if (typeof digits !== 'string') return nothing(digits.wrong)
  const given = Number(sign + digits)
  if (Math.abs(given) > LARGEST) return nothing('this number is too large for anything here')
  const temperature = kind === 'temperature' || kind === 'temperature_difference'
  const suffix = unitOf(behind, kind, unit)
  if (suffix === null)
    return nothing(
      `“${behind}” cannot be read here${temperature ? ': °C or °F' : kind && SYMBOL[kind] ? `: the number alone, in ${SYMBOL[kind]}` : ': the number alone'}`,
    )
  const value = kind === 'temperature' ? toCelsius(given, suffix) : isDifference(kind) ? differenceToCelsius(given, suffix) : given
  const symbol = temperature ? `°${suffix}` : kind ? (SYMBOL[kind] ?? '') : ''
  const written = comma ? number.replace(',', '.') : number
  const plainly = /^\d+(\.\d{1,2})?$/.test(written) || sign + written === String(given) // 60.0 is no other number to anybody
  const alike = plainly && !(temperature && suffix !== unit)
  return { value, says: alike ? '' : `read as ${mark(String(given), comma)}${symbol ? ` ${symbol}` : ''}`, wrong: '' }
}

/** The figures with a decimal point, or why they cannot be read. */
function figures(text: string, comma: boolean): string | { wrong: string } {
  const wrong = { wrong: `“${text}” is not a number` }
  const marks = [...new Set(text.replace(/\d/g, ''))]
  if (!marks.length) return text
  const only = marks[0] ?? ''
  if (marks.length === 1 && GROUPED.test(text)) {
    const whole = text.replaceAll(only, '')
    const twice = text.split(only).length > 2
    if (twice || only === ' ' || only === "'") return whole
    const part = text.replace(',', '.')
    const foreign = comma ? '.' : ','
    if (only !== foreign || text.startsWith('0')) return part
    return { wrong: `“${text}” can be ${whole} or ${mark(String(Number(part)), comma)}: write one of them` }
  }
  const last = text.search(/[.,](?=\d+$)/)
  if (last < 0) return wrong
  const [head, tail] = [text.slice(0, last), text.slice(last + 1)]
  if (!/^\d+$/.test(tail) || head.includes(text.charAt(last))) return wrong
  if (!/^\d*$/.test(head) && !GROUPED.test(head)) return wrong
  return `${head.replace(/\D/g, '') || '0'}.${tail}`
}

/** The unit written behind a number; the chosen one where there is none, null for one that does not belong here. */
function unitOf(suffix: string, kind: Quantity | undefined, unit: Unit): Unit | null {
  if (!suffix) return unit
  if (kind === 'temperature' || kind === 'temperature_difference') {
    const letter = /^°?\s*([cf])$/i.exec(suffix)
    return letter ? (letter[1]!.toUpperCase() as Unit) : null
  }
  return kind && SYMBOL[kind] && suffix.toLowerCase() === SYMBOL[kind].toLowerCase() ? unit : null
}
