import { expect, test } from 'vitest'
import { mark } from './decimal'

test('the decimal mark is the reader’s', () => {
  expect([mark('57.5', true), mark('57.5', false), mark('1200', true)]).toEqual(['57,5', '57.5', '1200'])
})
