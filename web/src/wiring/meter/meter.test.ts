import { expect, test } from 'vitest'
import { expected, place, readings, typedValue, verdict } from './meter'

test('what a meter shows is typed as people type it', () => {
  expect(['16.5', '16,5', '0.2 Ω', '4.7k', '4.7 kΩ', '1.2M', '230 V', '.5'].map(typedValue)).toEqual([
    16.5, 16.5, 0.2, 4700, 4700, 1.2e6, 230, 0.5,
  ])
  expect(['OL', 'ol', 'open', '∞'].map(typedValue)).toEqual([null, null, null, null])
  expect(['', 'about 16', '16 Ω or so', '-3', '1.2.3', 'k'].map(typedValue)).toEqual(Array(6).fill(undefined))
})

const READING = {
  a: 'F1.1',
  b: 'F1.2',
  over: 'contact' as const,
  about: 'contact of F1',
  ohms: { least: 0.02, most: 0.02 },
  moved: { 'F1 open': { least: null, most: null } },
  volts: { 'output off': 0.01, 'output on': 229.6 },
  trap: '',
}

test('a place shows ohms as it rests, other ohms with its part moved, and volts when live', () => {
  expect(expected(READING, '')).toBe('under 1 Ω')
  expect(expected(READING, 'F1 open')).toBe('OL (open)')
  expect(expected(READING, 'F2 open')).toBe('under 1 Ω') // another part moved changes nothing here
  expect(expected(READING, 'output on')).toBe('230 V')
  expect(expected({ ...READING, ohms: { least: 17_200, most: 17_600 } }, '')).toBe('17.4 kΩ')
  expect(expected({ ...READING, ohms: { least: 176, most: 17_630 } }, '')).toBe('176 Ω to 17.6 kΩ') // a coil on AC
  expect(expected({ ...READING, ohms: { least: 700, most: null } }, '')).toBe('over 700 Ω, or OL') // a lamp
  expect(expected({ ...READING, volts: { 'output off': null } }, 'output off')).toBe('undefined')
})

test('only readings are sent, each with its place and state', () => {
  const typed = {
    [place('E1.1', 'E1.2', '')]: '16.5',
    [place('F1.1', 'F1.2', 'F1 open')]: 'OL',
    [place('E1.1', 'E1.2', 'output on')]: 'lots',
    [place('K|1.A1', 'X1.PE', '')]: '',
  }
  expect(readings(typed)).toEqual([
    { a: 'E1.1', b: 'E1.2', state: '', value: 16.5 },
    { a: 'F1.1', b: 'F1.2', state: 'F1 open', value: null },
  ])
})

test('nothing being wrong is only said where it fits', () => {
  const suspect = (title: string, fits: boolean) => ({ title, fits, subject: title.startsWith('E1') ? 'E1' : '', misfit: fits ? 0 : 5 })
  expect(verdict(suspect('nothing is wrong', true))).toBe('All as it should be.')
  expect(verdict(suspect('nothing is wrong', false))).toMatch(/^Nothing here explains it/)
  expect(verdict(suspect('E1 burns out', true))).toBe('It fits this: E1 burns out.')
  expect(verdict(suspect('E1 burns out', false))).toMatch(/nearest is: E1 burns out/)
})
