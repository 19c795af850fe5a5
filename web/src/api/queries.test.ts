import { MutationObserver, onlineManager, QueryObserver } from '@tanstack/react-query'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { newQueries, WRITE_DEADLINE_MS } from './queries'

beforeEach(() => onlineManager.setOnline(false))
afterEach(() => onlineManager.setOnline(true))

test('a write goes out at once though the browser believes itself offline, and only once', async () => {
  const send = vi.fn(async () => 'off')
  const heatOff = new MutationObserver(newQueries(), { mutationFn: send })
  await expect(heatOff.mutate()).resolves.toBe('off')
  onlineManager.setOnline(true)
  await new Promise((done) => setTimeout(done, 20))
  expect(send).toHaveBeenCalledTimes(1)
})

test('a write that fails says so at once and is not tried again', async () => {
  const send = vi.fn(async () => {
    throw new Error('no answer')
  })
  await expect(new MutationObserver(newQueries(), { mutationFn: send }).mutate()).rejects.toThrow('no answer')
  onlineManager.setOnline(true)
  await new Promise((done) => setTimeout(done, 20))
  expect(send).toHaveBeenCalledTimes(1)
})

test('what is shown is fetched though the browser believes itself offline', async () => {
  const observer = new QueryObserver(newQueries(), { queryKey: ['live'], queryFn: async () => 60.2 })
  const seen = new Promise((done) => observer.subscribe((result) => result.data !== undefined && done(result.data)))
  await expect(seen).resolves.toBe(60.2)
})

test('a write is given longer than the server waits for its recorder', () => {
  expect(WRITE_DEADLINE_MS).toBeGreaterThan((4 + 6) * 1000)
})
