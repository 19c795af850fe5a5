import { expect, test } from 'vitest'
import type { Quantity } from '../api/client'
import { entry, shown } from './entry'
import type { Unit } from './quantity'

const parsed = (text: string, kind: Quantity, unit: Unit) => entry(text, kind, unit).value

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

test.each([
  ['1 200', 1200],
  ['1\u202f200', 1200],
  ['1,200.5', 1200.5],
  ['1.200,5', 1200.5],
  ['1,200,300', 1200300],
  ["1'200", 1200],
  ['57,5', 57.5],
  ['0,200', 0.2],
  ['3.200', 3.2],
  ['230 w', 230],
  ['-4', -4],
])('%s is read as %d', (typed, value) => {
  expect(entry(typed, 'power', 'C')).toMatchObject({ value, wrong: '' })
})

test.each(['3,200', '2k', '0x10', '1,2,3', '1.2.3', '12 34', '1,20.5', '007', '1e', 'Infinity', '5 V', '--3', '1,2345.6', '.', '٣'])(
  '%s is refused in words, never turned into something else',
  (typed) => {
    const read = entry(typed, 'power', 'C')
    expect(read.value).toBeNull()
    expect(read.wrong).not.toBe('')
  },
)

test('a number that can be two is refused with both', () => {
  expect(entry('3,200', 'power', 'C').wrong).toContain('3200 or 3.2')
})

test('a unit written behind a temperature decides, and is said', () => {
  expect(entry('230F', 'temperature', 'C').value).toBeCloseTo(110)
  expect(entry('230F', 'temperature', 'C').says).toBe('read as 230 °F')
  expect(entry('110 °c', 'temperature', 'F').value).toBe(110)
  expect(entry('18 F', 'temperature_difference', 'C').value).toBeCloseTo(10)
  expect(entry('300K', 'temperature', 'C').wrong).toContain('°C or °F')
  expect(entry('60', 'temperature', 'C').says).toBe('')
})

/** A small generator of its own, so that a failure is the same again. */
function chance(seed: number) {
  let state = seed
  return () => {
    state = (state * 1664525 + 1013904223) % 2 ** 32
    return state / 2 ** 32
  }
}

const GROUPS = ['', ' ', '\u00a0', "'", ',', '.']

test('a number written in any country’s way is read as that number or refused, never as another', () => {
  const next = chance(7)
  let read = 0
  for (let i = 0; i < 4000; i++) {
    const whole = String(Math.floor(10 ** (next() * 7)))
    const part = next() < 0.5 ? '' : String(Math.floor(next() * 999)).padStart(Math.ceil(next() * 3), '0')
    const group = GROUPS[Math.floor(next() * GROUPS.length)]!
    const point = group === '.' ? ',' : group === ',' ? '.' : next() < 0.5 ? '.' : ','
    if (group === '.' && !part) continue // 1.234 alone is a decimal point everywhere here, and said beside the field
    const typed = `${next() < 0.3 ? '-' : ''}${whole.replace(/\B(?=(\d{3})+$)/g, group)}${part && point + part}`
    const meant = Number(`${typed.startsWith('-') ? '-' : ''}${whole}${part && `.${part}`}`)
    const found = entry(typed, 'power', 'C')
    if (found.wrong) expect(found.value, typed).toBeNull()
    else {
      read++
      expect(found.value, typed).toBe(meant)
    }
  }
  expect(read).toBeGreaterThan(2500)
})

test('whatever is typed is a finite number, nothing, or refused in words', () => {
  const next = chance(11)
  const signs = '0123456789.,+-−eE xXoO°CF \u00a0\t%kM\'"()/٣²½'
  for (let i = 0; i < 6000; i++) {
    const typed = Array.from({ length: Math.floor(next() * 12) }, () => signs[Math.floor(next() * signs.length)]).join('')
    for (const kind of ['temperature', 'power'] as const) {
      const found = entry(typed, kind, 'F')
      expect(found.value === null || Number.isFinite(found.value), typed).toBe(true)
      expect(found.wrong === '' || found.value === null, typed).toBe(true)
      if (!found.wrong && found.value === null) expect(typed.trim(), typed).toBe('')
    }
  }
  expect(entry('9'.repeat(400), 'power', 'C')).toMatchObject({ value: null, wrong: expect.stringContaining('too large') as string })
})

test('where the language has a decimal comma, a comma is one, and a grouping point is asked about', () => {
  const german = (text: string) => entry(text, 'power', 'C', true)
  expect(german('57,5')).toEqual({ value: 57.5, says: '', wrong: '' })
  expect(german('3,200').value).toBe(3.2)
  expect(german('1.234,5').value).toBe(1234.5)
  expect(german('3.200').wrong).toContain('3200 or 3,2')
  expect(german('0.2').value).toBe(0.2)
})
