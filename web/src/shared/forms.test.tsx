// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { MemoryRouter } from 'react-router'
import { afterEach, expect, test } from 'vitest'
import { Refusal } from '../api/client'
import { useDraft } from '../api/kept'
import { Preferences } from '../shell/preferences'
import { Conflict } from './Conflict'
import { Fetched } from './Fetched'
import { ListField, NumberField } from './fields'

afterEach(() => {
  cleanup()
  sessionStorage.clear()
})

function Room({ onChange }: { onChange: (value: number | null, wrong: boolean) => void }) {
  const [value, setValue] = useState<number | null>(21)
  return (
    <Preferences>
      <NumberField
        label="Room"
        kind="temperature"
        value={value}
        onChange={(next, wrong) => {
          setValue(next)
          onChange(next, wrong)
        }}
      />
    </Preferences>
  )
}

const TYPED: [string, number | null, boolean][] = [
  ['23', 23, false],
  ['1 200', 1200, false],
  ['1,200.5', 1200.5, false],
  ['1.200,5', 1200.5, false],
  ['212F', 100, false],
  ['-40', -40, false],
  ['', null, false],
  ['3,200', null, true],
  ['0x10', null, true],
  ['warm', null, true],
  ['1e999', null, true],
  ['--5', null, true],
  ['٣', null, true],
]

test.each(TYPED)('%s is read or refused in words, and stays as typed', async (typed, value, wrong) => {
  let heard: [number | null, boolean] = [NaN, false]
  render(<Room onChange={(...now) => (heard = now)} />)
  const box = screen.getByLabelText<HTMLInputElement>('Room')
  await userEvent.clear(box)
  if (typed) await userEvent.type(box, typed)
  expect(heard[0] === null ? null : Math.round(heard[0] * 100) / 100).toBe(value)
  expect(heard[1]).toBe(wrong)
  expect(box.value).toBe(typed)
  expect(box.validity.customError).toBe(wrong)
  if (wrong) {
    await userEvent.tab()
    expect(box.value).toBe(typed) // kept, not emptied
  }
})

const queries = new QueryClient({ defaultOptions: { queries: { enabled: false } } })

function Form({ stored, revision }: { stored: { room: number; name: string }; revision: number }) {
  const draft = useDraft('cabinet', 'purpose', stored, revision)
  return (
    <QueryClientProvider client={queries}>
      <Preferences>
        <button onClick={() => draft.set({ room: 23 })}>type</button>
        <output>{`${draft.values.room} ${draft.values.name} on ${draft.revision}`}</output>
        <Conflict draft={draft} />
      </Preferences>
    </QueryClientProvider>
  )
}

test('a conflict shows both values of every field, and each can be taken', async () => {
  const { rerender } = render(<Form stored={{ room: 21, name: 'Cabinet' }} revision={3} />)
  await userEvent.click(screen.getByText('type'))
  rerender(<Form stored={{ room: 25, name: 'Oven' }} revision={4} />)
  const cells = screen
    .getAllByRole('row')
    .slice(1)
    .map((r) => [...r.querySelectorAll('td')].slice(0, 3).map((c) => c.textContent))
  expect(cells).toEqual([
    ['Room', '23', '25'],
    ['Name', 'Cabinet', 'Oven'],
  ])
  await userEvent.click(screen.getByLabelText('Take the rig’s Name'))
  expect(screen.getByRole('status').textContent).toBe('23 Oven on 3')
  await userEvent.click(screen.getByText(/I have looked/))
  expect(screen.getByRole('status').textContent).toBe('23 Oven on 4')
  expect(screen.queryByRole('alert')).toBeNull()
})

const query = <T,>(data: T | undefined, error: unknown = null) => ({ data, error, refetch: () => undefined })

test('what is on the page stays when fetching it anew fails', () => {
  const page = (data: string | undefined, error?: unknown) => (
    <MemoryRouter>
      <Fetched query={query(data, error)}>{(words) => <input defaultValue={words} />}</Fetched>
    </MemoryRouter>
  )
  const { rerender } = render(page(undefined))
  expect(screen.getByRole('status').textContent).toContain('Fetching')
  rerender(page('here'))
  const box = screen.getByRole<HTMLInputElement>('textbox')
  box.value = 'typed'
  rerender(page('here', new Refusal('Rellux does not answer.', [], 0)))
  expect(screen.getByRole<HTMLInputElement>('textbox').value).toBe('typed')
  cleanup()
  render(page(undefined, new Refusal('Rellux does not answer.', [], 0)))
  expect(screen.getByRole('alert').textContent).toContain('Try again')
})

test('a list is typed as it comes, and follows what is brought from elsewhere', async () => {
  function Codes({ start }: { start: string[] }) {
    const [value, setValue] = useState(start)
    return (
      <Preferences>
        <ListField label="No value" value={value} onChange={setValue} />
        <button onClick={() => setValue(['7', '8'])}>From a file</button>
        <output>{JSON.stringify(value)}</output>
      </Preferences>
    )
  }
  render(<Codes start={['32767']} />)
  const box = screen.getByLabelText<HTMLInputElement>('No value')
  await userEvent.type(box, ', -1, ')
  expect([box.value, screen.getByRole('status').textContent]).toEqual(['32767, -1, ', '["32767","-1"]'])
  await userEvent.click(screen.getByText('From a file'))
  expect(box.value).toBe('7, 8')
})
