// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { api, type Rig, type Schemas } from '../api/client'
import { Preferences } from '../shell/preferences'
import { Reasons } from '../shell/reason'
import { Halves } from './Halves'
import { Sign } from './Sign'
import { Staircase } from './Staircase'
import { StepInHand } from './StepInHand'

type Step = Schemas['ProvingStepView']
type Stage = Schemas['ProvingStageView']

const figure = { name: 'heater', value: 16.5, kind: 'resistance', unit: 'Ω', formula: '', inputs: [], reason: '', source: '', school: '', symbol: '', low: null, high: null } // prettier-ignore
const measure = { figure, low: 13, high: 19, accepts: '{13…19 Ω}', divided: false, take: null }
const step = (key: string, more: Partial<Step> = {}): Step =>
  ({
    key, title: key, does: `measure ${key}`, must: 'it holds', measure: null, help: '', isolated: 'Plug out.', caution: '', constant: '',
    elsewhere: '', halves: false, state: 'open', changed: [], record: null, dangers: [], ...more,
  }) as Step // prettier-ignore
const stage = (number: number, more: Partial<Stage> = {}): Stage =>
  ({ number, title: `Stage ${number}`, after: 'wiring', warns: '', waits: '', steps: [step('a'), step('b')], done: 0, signed: null, before: [], against: [], ...more }) as Stage // prettier-ignore
const rig = { slug: 'r', revision: 3, live: { status: 'none' } } as unknown as Rig

const shown = (what: React.ReactNode) =>
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <Preferences>
        <Reasons>{what}</Reasons>
      </Preferences>
    </QueryClientProvider>,
  )

let sent: { body: unknown }[] = []
let answers: [number, unknown][] = []
beforeEach(() => {
  sent = []
  answers = []
  sessionStorage.clear()
  const fields = [{ name: 'skipped', label: 'Because', kind: null, choices: [] }]
  vi.spyOn(api, 'GET').mockImplementation((() =>
    Promise.resolve({ data: fields, response: new Response('[]') })) as unknown as typeof api.GET)
  vi.spyOn(api, 'POST').mockImplementation(((_path: string, given: { body: unknown }) => {
    sent.push({ body: given.body })
    const [status, body] = answers.shift() ?? [200, {}]
    const response = new Response(JSON.stringify(body), { status })
    return Promise.resolve(status < 400 ? { data: body, response } : { error: body, response })
  }) as unknown as typeof api.POST)
})
afterEach(() => {
  cleanup()
  vi.restoreAllMocks()
})

test('stairs say how they stand, and are picked', () => {
  const onPick = vi.fn()
  const stages = [
    stage(0, { signed: { at: '2026-11-01T08:00:00Z', who: 'Technician', why: '' }, done: 2 }),
    stage(1, { steps: [step('a', { state: 'void' })] }),
    stage(3, { waits: 'plan first', steps: [] }),
  ]
  shown(<Staircase stages={stages} at={1} onPick={onPick} />)
  expect(screen.getByRole('button', { name: /Stage 0, .*signed by Technician/ })).toBeTruthy()
  expect(screen.getByRole('button', { name: /Stage 1, .*not as it must be/ }).getAttribute('aria-current')).toBe('step')
  fireEvent.click(screen.getByRole('button', { name: /Stage 3, .*waits for the plan/ }))
  expect(onPick).toHaveBeenCalledWith(3)
})

test('a number in the wrong unit is asked back, and kept where it was meant', async () => {
  const onDone = vi.fn()
  shown(<StepInHand rig={rig} stage={stage(0)} step={step('ohms', { measure: measure as Step['measure'] })} room={21} onDone={onDone} />)
  fireEvent.change(screen.getByLabelText('Measured'), { target: { value: '0.0165' } })
  const problems = [{ field: 'sure', reason: '{0.0165 Ω} is far off, but as kΩ for Ω it fits: which was it?', accepted: '{13…19 Ω}' }]
  answers = [[400, { message: 'no', problems }]]
  fireEvent.click(screen.getByRole('button', { name: 'It was so, next' }))
  await screen.findByText(/which was it/)
  fireEvent.click(screen.getByRole('button', { name: 'It was read so: keep it' }))
  await waitFor(() => expect(onDone).toHaveBeenCalled())
  expect(sent.map((s) => s.body)).toMatchObject([
    { revision: 3, key: 'ohms', room_c: 21, seen: { value: 0.0165, as_told: true } },
    { seen: { value: 0.0165, sure: true } },
  ])
})

test('after a slip another number is sent as it is', async () => {
  shown(<StepInHand rig={rig} stage={stage(0)} step={step('ohms', { measure: measure as Step['measure'] })} room={21} onDone={() => {}} />)
  fireEvent.change(screen.getByLabelText('Measured'), { target: { value: '0.0165' } })
  answers = [[400, { message: 'no', problems: [{ field: 'sure', reason: 'which was it?', accepted: '' }] }]]
  fireEvent.click(screen.getByRole('button', { name: 'It was so, next' }))
  await screen.findByText(/which was it/)
  fireEvent.change(screen.getByLabelText('Measured'), { target: { value: '16.4' } })
  fireEvent.click(screen.getByRole('button', { name: 'It was so, next' }))
  await waitFor(() => expect(sent).toHaveLength(2))
  expect(sent[1]!.body).toMatchObject({ seen: { value: 16.4, sure: false } })
})

test('what was seen otherwise, left out, or before its turn is sent with its reason', async () => {
  shown(
    <StepInHand
      rig={rig}
      stage={stage(2, { before: ['Stage 1 is not signed.'] })}
      step={step('drive', { dangers: ['B3 and B1 are exchanged'] })}
      room={21}
      onDone={() => {}}
    />,
  )
  expect(screen.getByText('Danger:').parentElement!.textContent).toContain('B3 and B1 are exchanged')
  fireEvent.change(screen.getByLabelText('Why it goes first'), { target: { value: 'the probe is new' } })
  fireEvent.click(screen.getByRole('button', { name: 'It was not so' }))
  await waitFor(() => expect(sent).toHaveLength(1))
  fireEvent.change(await screen.findByLabelText('Because'), { target: { value: 'no meter' } })
  fireEvent.click(screen.getByRole('button', { name: 'Left out' }))
  await waitFor(() => expect(sent).toHaveLength(2))
  expect(sent.map((s) => s.body)).toMatchObject([
    { why: 'the probe is new', seen: { as_told: false } },
    { why: 'the probe is new', seen: { skipped: 'no meter' } },
  ])
})

test('a step that stands is measured again only when asked for, one of another station is not ticked here', () => {
  shown(<StepInHand rig={rig} stage={stage(0)} step={step('earth', { state: 'passed' })} room={21} onDone={() => {}} />)
  expect(screen.queryByRole('button', { name: 'It was so, next' })).toBeNull()
  fireEvent.click(screen.getByRole('button', { name: 'Measure it again' }))
  expect(screen.getByRole('button', { name: 'It was so, next' })).toBeTruthy()
  cleanup()
  shown(<StepInHand rig={rig} stage={stage(3)} step={step('guards', { elsewhere: 'guarding' })} room={21} onDone={() => {}} />)
  expect(screen.getByRole('link', { name: 'Go there' }).getAttribute('href')).toBe('/rigs/r/guarding?look=proof')
  expect(screen.queryByRole('button', { name: /It was so/ })).toBeNull()
})

test('no name under a voided stage, and a reason under an open one', () => {
  shown(<Sign rig={rig} stage={stage(1, { against: ['a: must be proved again.'], steps: [step('a', { state: 'void' })] })} />)
  expect(screen.getByRole('button', { name: 'Sign stage 1' })).toHaveProperty('disabled', true)
  expect(screen.queryByText('Sign it all the same')).toBeNull()
  cleanup()
  shown(<Sign rig={rig} stage={stage(1, { against: ['a: is open.'] })} />)
  fireEvent.change(screen.getByLabelText('Why'), { target: { value: 'lent the tester' } })
  fireEvent.click(screen.getByRole('button', { name: 'Sign stage 1' }))
  return waitFor(() => expect(sent[0]!.body).toMatchObject({ stage: 1, why: 'lent the tester' }))
})

test('halves: what was measured is added, and the last is taken back', async () => {
  const next = { a: 'A2.L', b: 'F2.1', least: 0.1, most: 0.1, leaves: 3 }
  answers = [
    [200, { suspects: [{ title: 'F2 opens', subject: 'F2' }, { title: 'wire 3 comes off', subject: 'wire 3' }], next }],
    [200, { suspects: [{ title: 'F2 opens', subject: 'F2' }], next: null }],
  ] // prettier-ignore
  shown(<Halves rig={rig} step={step('supply', { state: 'failed', halves: true })} />)
  await screen.findByText('A2.L')
  fireEvent.click(screen.getByRole('button', { name: 'No connection' }))
  await screen.findByText(/What is left/)
  expect(sent[1]!.body).toMatchObject({ key: 'supply', clues: [{ a: 'A2.L', b: 'F2.1', ohms: null }] })
  fireEvent.click(screen.getByRole('button', { name: 'Take the last back' }))
  await waitFor(() => expect(screen.queryByText(/no connection/)).toBeNull())
})
