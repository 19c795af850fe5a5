// @vitest-environment jsdom
import { act, cleanup, renderHook } from '@testing-library/react'
import { afterEach, beforeEach, expect, test } from 'vitest'
import { useDraft, useKept } from './kept'

interface Form {
  room: number | null
  name: string
}

const RIG: Form = { room: 21, name: 'Cabinet' }

function draft(stored: Form = RIG, revision = 3) {
  return renderHook(({ stored, revision }) => useDraft('cabinet', 'purpose', stored, revision), { initialProps: { stored, revision } })
}

beforeEach(() => sessionStorage.clear())
afterEach(cleanup)

test('an untouched form follows the rig', () => {
  const { result, rerender } = draft()
  rerender({ stored: { ...RIG, room: 25 }, revision: 4 })
  expect(result.current).toMatchObject({ values: { room: 25 }, revision: 4, touched: false, theirs: null })
})

test('what is typed survives leaving the page, and says so until it was looked at', () => {
  const first = draft()
  act(() => first.result.current.set({ room: 23 }))
  expect(first.result.current.resumed).toBeNull() // typed just now, in front of the user
  first.unmount()
  const { result } = draft()
  expect(result.current.values).toEqual({ room: 23, name: 'Cabinet' })
  expect(result.current.resumed).toBeGreaterThan(0)
  act(() => result.current.goOn())
  expect(result.current).toMatchObject({ resumed: null, values: { room: 23 } })
  act(() => result.current.discard())
  expect(result.current).toMatchObject({ values: RIG, touched: false })
  expect(sessionStorage.length).toBe(0)
})

test('what is typed while a save is on its way is not lost with it', () => {
  const { result, rerender } = draft()
  act(() => result.current.set({ room: 23 }))
  const asked = result.current
  act(() => result.current.set({ name: 'Oven' }))
  rerender({ stored: { ...RIG, room: 23 }, revision: 4 })
  act(() => asked.discard())
  expect(result.current).toMatchObject({ values: { room: 23, name: 'Oven' }, touched: true, revision: 4, theirs: null })
})

test('another window’s change of this form is a conflict, saved on the old revision until looked at', () => {
  const { result, rerender } = draft()
  act(() => result.current.set({ room: 23 }))
  rerender({ stored: { ...RIG, room: 25 }, revision: 4 })
  expect(result.current).toMatchObject({ values: { room: 23 }, revision: 3, theirs: { room: 25 } })
  act(() => result.current.set({ name: 'Oven' }))
  expect(result.current).toMatchObject({ revision: 3, theirs: { room: 25 } }) // typing on does not make it looked at
  act(() => result.current.rebase())
  expect(result.current).toMatchObject({ values: { room: 23, name: 'Oven' }, revision: 4, theirs: null })
})

test('a change elsewhere in the rig is no conflict of this form', () => {
  const { result, rerender } = draft()
  act(() => result.current.set({ room: 23 }))
  rerender({ stored: { ...RIG }, revision: 7 })
  expect(result.current).toMatchObject({ values: { room: 23 }, revision: 7, theirs: null })
})

test('a conflict is still one after a reload', () => {
  const first = draft()
  act(() => first.result.current.set({ room: 23 }))
  first.unmount()
  const { result } = draft({ ...RIG, room: 25 }, 4)
  expect(result.current).toMatchObject({ revision: 3, theirs: { room: 25 } })
})

test('somebody saving the very same is no conflict', () => {
  const { result, rerender } = draft()
  act(() => result.current.set({ room: 23 }))
  rerender({ stored: { ...RIG, room: 23 }, revision: 4 })
  expect(result.current).toMatchObject({ theirs: null, touched: false, revision: 4 })
})

test('a draft of another shape fits as far as it does', () => {
  sessionStorage.setItem(
    'draft cabinet purpose',
    JSON.stringify({ values: { room: 23, gone: 1 }, base: { room: 21, gone: 1 }, on: 3, at: 5 }),
  )
  expect(draft().result.current.values).toEqual({ room: 23, name: 'Cabinet' })
  sessionStorage.setItem('draft cabinet purpose', '{broken')
  expect(draft().result.current.values).toEqual(RIG)
})

test('a kept text is there again, and gone once it is what it began as', () => {
  const first = renderHook(() => useKept('wires', ''))
  act(() => first.result.current[1]('F1, A1'))
  first.unmount()
  const again = renderHook(() => useKept('wires', ''))
  expect(again.result.current[0]).toBe('F1, A1')
  act(() => again.result.current[1](''))
  expect(sessionStorage.length).toBe(0)
})

test('a password is kept on the page and written down nowhere', () => {
  const { result } = renderHook(() => useKept('link', { user: '', password: '' }))
  act(() => result.current[1]({ user: 'bench', password: 'secret' }))
  expect(result.current[0].password).toBe('secret')
  expect(JSON.stringify({ ...sessionStorage })).toContain('bench')
  expect(JSON.stringify({ ...sessionStorage })).not.toContain('secret')
})
