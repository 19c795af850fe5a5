import { expect, test } from 'vitest'
import { type FieldWords, labelOf, valueOf } from './fields'

const KNOWN = new Map<string, FieldWords>([
  ['highest_c', { label: 'Highest allowed', kind: 'temperature', choices: [] }],
  ['offset_c', { label: 'Offset', kind: 'temperature_difference', choices: [] }],
  [
    'mode',
    {
      label: 'Control mode',
      kind: null,
      choices: [
        ['on_off', 'On/off'],
        ['pid', 'PID'],
      ],
    },
  ],
  [
    'limiter',
    {
      label: 'Independent limiter',
      kind: null,
      choices: [
        ['true', 'yes'],
        ['false', 'no'],
      ],
    },
  ],
  ['display_c', { label: 'Display', kind: 'temperature', choices: [] }],
  ['segments.display_c', { label: 'Shows', kind: 'temperature', choices: [] }],
])

test.each([
  ['highest_c', 'Highest allowed'],
  ['offset.pairs[1].display_c', 'Display, 2'],
  ['profile.segments[2].display_c', 'Shows, 3'],
  ['materials[0]', 'Materials, 1'],
  ['fault.rate_c_per_min', 'Rate'],
  ['columns.reading', 'Reading'],
  ['breaking_capacity_a', 'Breaking capacity'],
])('%s is called %s', (path, label) => {
  expect(labelOf(KNOWN, path)).toBe(label)
})

test.each([
  ['highest_c', 60, '140.0 °F'],
  ['offset_c', -5, '−9.0 °F'],
  ['mode', 'on_off', 'On/off'],
  ['limiter', true, 'yes'],
  ['limiter', false, 'no'],
  ['unheard_of', 12.5, '12.5'],
  ['mode', null, '–'],
  ['whatever', ['a', 'b'], 'a, b'],
  ['whatever', { mode: 'pid' }, 'Control mode PID'],
  ['whatever', [], '–'],
  ['segments', [{ display_c: 60 }], 'Shows 140.0 °F'],
])('%s of %j is said %s', (name, value, said) => {
  expect(valueOf(KNOWN, name, value, 'F')).toBe(said)
})
