// @vitest-environment jsdom
import { act, renderHook, waitFor } from '@testing-library/react'
import { expect, it } from 'vitest'
import { useLatest } from './useLatest'

it('asks one thing at a time, and then only the last', async () => {
  const asked: number[] = []
  const answers: (() => void)[] = []
  const ask = (n: number) => {
    asked.push(n)
    return new Promise<number>((resolve) => answers.push(() => resolve(n * 10)))
  }
  const { result, rerender } = renderHook(({ n }) => useLatest(n, ask), { initialProps: { n: 1 } })
  for (const n of [2, 3, 4, 5]) rerender({ n })
  expect(asked).toEqual([1])
  await act(async () => answers[0]!())
  await waitFor(() => expect(asked).toEqual([1, 5]))
  expect(result.current).toMatchObject({ data: 10, behind: true })
  await act(async () => answers[1]!())
  expect(result.current).toMatchObject({ data: 50, behind: false })
})

it('keeps the last good answer beside a refusal of what is asked now', async () => {
  const ask = (n: number) => (n > 1 ? Promise.reject(new Error('no')) : Promise.resolve(n))
  const { result, rerender } = renderHook(({ n }) => useLatest(n, ask), { initialProps: { n: 1 } })
  await waitFor(() => expect(result.current.data).toBe(1))
  rerender({ n: 2 })
  await waitFor(() => expect(result.current.error).toBeInstanceOf(Error))
  expect(result.current.data).toBe(1)
})
