import { mark, writesComma } from './decimal'

const SECONDS = { s: 1, min: 60, h: 3600, d: 86400 } as const
type Of = keyof typeof SECONDS
const WORD = /^(-?[\d.,]+)\s*(s|sec|min|m|h|d)?$/i

/** The largest unit in which a time is a whole number, or a short one. */
function unitFor(seconds: number): Of {
  const size = Math.abs(seconds)
  for (const unit of ['d', 'h', 'min'] as const) {
    const n = size / SECONDS[unit]
    if (n >= (unit === 'd' ? 3 : unit === 'h' ? 2 : 2) && Math.abs(n * 10 - Math.round(n * 10)) < 1e-9) return unit
  }
  if (size >= 7200) return 'h'
  return size >= 120 ? 'min' : 's'
}

/** A time as it stands in a field: ``90 min``, ``16 h``, ``45 s``. */
export function lasting(seconds: number | null): string {
  if (seconds == null || Number.isNaN(seconds)) return ''
  const unit = unitFor(seconds)
  return mark(`${Math.round((seconds / SECONDS[unit]) * 1000) / 1000} ${unit}`)
}

/** What was typed as a time, in s: ``1:30`` is an hour and a half, ``1 h 30 min`` too; a number alone is in the unit that stood there. */
export function lastingEntry(text: string, before: number | null, comma = writesComma()): { value: number | null; wrong: string } {
  const plain = text.trim()
  if (!plain) return { value: null, wrong: '' }
  const clock = /^(\d+):([0-5]\d)(?::([0-5]\d))?$/.exec(plain)
  if (clock) return { value: Number(clock[1]) * 3600 + Number(clock[2]) * 60 + Number(clock[3] ?? 0), wrong: '' }
  const pieces = plain.match(/[\d.,]+\s*[a-z]*/gi) ?? []
  if (pieces.join('').replace(/\s/g, '') !== plain.replace(/\s/g, '')) return wrong(text)
  let total = 0
  for (const piece of pieces) {
    const found = WORD.exec(piece.trim())
    if (!found) return wrong(text)
    const number = Number(comma ? found[1]!.replace(',', '.') : found[1])
    if (!Number.isFinite(number)) return wrong(text)
    const word = (found[2] ?? (pieces.length === 1 ? unitFor(before ?? 3600) : '')).toLowerCase()
    const unit = word === 'sec' ? 's' : word === 'm' ? 'min' : word
    if (!(unit in SECONDS)) return wrong(text)
    total += number * SECONDS[unit as Of]
  }
  return { value: total, wrong: '' }
}

const wrong = (text: string) => ({ value: null, wrong: `“${text.trim()}” is no length of time: 90 min, 1.5 h or 1:30` })
