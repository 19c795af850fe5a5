import { expect, test } from 'vitest'
import type { Live } from './client'
import { asOf } from './live'

const HEARD = { status: 'online', message: '', age_s: 0.3, stale_after_s: 5, reading_c: 60 } as Live

test('a reading is live until it is stale, and then says since when nothing was heard', () => {
  expect(asOf(HEARD, 1000, 5600).status).toBe('online')
  expect(asOf(HEARD, 1000, 5800)).toMatchObject({ status: 'offline', message: 'nothing heard for 5 s' })
  expect(asOf(HEARD, 1000, 61000).message).toBe('nothing heard for 60 s')
})

test('the age it had when it came counts, and a slow channel has its own limit', () => {
  expect(asOf({ ...HEARD, age_s: 4.9 }, 0, 200).status).toBe('offline')
  expect(asOf({ ...HEARD, stale_after_s: 180 }, 0, 170000).status).toBe('online')
})

test('a clock set back does not make a reading younger than it was', () => {
  expect(asOf({ ...HEARD, age_s: 6 }, 100000, 0).status).toBe('offline')
})

test('what is offline already keeps its own words', () => {
  const lost = { ...HEARD, status: 'offline', message: 'Rellux does not answer' } as Live
  expect(asOf(lost, 0, 1e9)).toBe(lost)
})
