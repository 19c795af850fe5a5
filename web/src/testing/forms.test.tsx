// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from '@testing-library/react'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { Demo } from './app'

let demo: Demo
beforeEach(() => {
  demo = new Demo()
})
afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

interface Form {
  at: string
  /** What is pressed before the form is there. */
  opened?: (string | RegExp)[]
  typed: Record<string, string>
  press: string | RegExp
  sends: string
  body: object
  /** A field that the server may name, and the label beside which it is then said. */
  refused?: [field: string, label: string]
}

const RIG = '/rigs/cement-cabinet'
const API = `/api/v1${RIG}`
const FORMS: Record<string, Form> = {
  purpose: {
    at: `${RIG}/purpose`, typed: { 'Working temperature': '62', 'Highest allowed': '71' }, press: 'Save the purpose',
    sends: `POST ${API}/purpose/try`, body: { working_c: 62, highest_c: 71 }, refused: ['working_c', 'Working temperature'],
  },
  'a new rig': {
    at: '/new', typed: { Name: 'Drying box', 'Working temperature': '80', 'Highest allowed': '100', 'Above it': 'the cement lets go', 'Heater power, nameplate': '500' },
    press: 'Create the rig', sends: 'POST /api/v1/rigs', body: { name: 'Drying box', working_c: 80, heater_power_w: 500 }, refused: ['heater_power_w', 'Heater power, nameplate'],
  },
  parts: {
    at: `${RIG}/parts`, typed: { 'Plug or inlet, its rating (empty: proposed)': '20' }, press: 'Use these parts',
    sends: `PUT ${API}/parts`, body: { sensor: 'Pt100' },
  },
  'an own part': {
    at: '/library', typed: { 'Your name for it': 'Bench controller' }, press: 'Save to the library',
    sends: 'POST /api/v1/library', body: { title: 'Bench controller', kind: 'controller_ssr' }, refused: ['title', 'Your name for it'],
  },
  'a piece of equipment': {
    at: '/equipment', opened: ['Enter a piece'], typed: { 'Name, as on its label': 'S-77' }, press: 'Enter it',
    sends: 'POST /api/v1/equipment', body: { name: 'S-77', role: 'sensor' }, refused: ['name', 'Name, as on its label'],
  },
  'a register map': {
    at: '/maps', typed: { 'Name of the controller': 'Grey one', Address: '17' }, press: 'Save the map',
    sends: 'POST /api/v1/register-maps', body: { map: expect.objectContaining({ title: 'Grey one' }) as unknown }, refused: ['title', 'Name of the controller'],
  },
  'a controller’s menus': {
    at: '/controllers', typed: { Controller: 'Grey one' }, press: '',
    sends: 'POST /api/v1/controllers/check', body: { description: expect.objectContaining({ title: 'Grey one' }) as unknown },
  },
  'zones of a chamber': {
    at: '/zones/1', opened: ['Change the zones, or part them'], typed: { 'Name of the chamber': 'Tube' }, press: 'Save the zones',
    sends: 'PUT /api/v1/chambers/1', body: { name: 'Tube', revision: 1 }, refused: ['name', 'Name of the chamber'],
  },
  'a wire': {
    at: `${RIG}/wiring`, typed: { From: 'Q0.L', To: 'A1.L' }, press: 'Add the wire',
    sends: `POST ${API}/wiring/wires`, body: { a: 'Q0.L', b: 'A1.L' }, refused: ['a', 'From'],
  },
  'wires pasted': {
    at: `${RIG}/wiring`, typed: { 'One a line: from, to, and if you like mm² and colour': 'Q0.L, A1.L' }, press: 'Add them',
    sends: `POST ${API}/wiring/paste`, body: { text: 'Q0.L, A1.L' },
  },
  'one more part': {
    at: `${RIG}/wiring`, typed: { 'Name (empty: next free)': 'K9' }, press: 'Add it',
    sends: `POST ${API}/wiring/parts`, body: { name: 'K9' },
  },
  'a step that was left out': {
    at: `${RIG}/proving`, opened: ['Leave it out'], typed: { Because: 'no meter here' }, press: 'Left out',
    sends: `POST ${API}/proving/steps`, body: { key: 'look', seen: { skipped: 'no meter here' } }, refused: ['skipped', 'Because'],
  },
  sheet: {
    at: `${RIG}/setup`, typed: { Hysteresis: '3', 'Why (goes into the book)': 'calmer' }, press: /^Save as left/,
    sends: `PUT ${API}/setup`, body: { kind: 'as_left', why: 'calmer', values: expect.objectContaining({ hysteresis_c: 3 }) as unknown }, refused: ['hysteresis_c', 'Hysteresis'],
  },
  'what guards it': {
    at: `${RIG}/guarding`, opened: ['Alarms', /^Too hot/], typed: { 'What to do then': 'Open the door', 'Why (goes into the book)': 'tried' }, press: 'Save the plan',
    sends: `PUT ${API}/guarding`, body: { why: 'tried' },
  },
  'a change beside': {
    at: `${RIG}/tuning`, typed: { 'Something else was changed just now': 'door sealed' }, press: 'Keep it in the book',
    sends: `POST ${API}/tuning/ledger`, body: { what: 'door sealed' },
  },
  'a relay test': {
    at: `${RIG}/tuning`, opened: ['If the controller tunes itself'], typed: { 'Test set-point': '57' }, press: '',
    sends: `POST ${API}/tuning/relay`, body: { setpoint_c: 57 }, refused: ['setpoint_c', 'Test set-point'],
  },
  'a profile': {
    at: `${RIG}/profiles`, typed: { To: '55', 'Why (goes into the book)': 'lower' }, press: 'Save as the next version',
    sends: `PUT ${API}/profiles/lens-cement`, body: { why: 'lower' },
  },
  'a note in a run': {
    at: `${RIG}/runs/5`, typed: { 'Note at this moment': 'door opened' }, press: 'Note it',
    sends: `POST ${API}/runs/5/notes`, body: { text: 'door opened' },
  },
  'a comparison': {
    at: `${RIG}/calibration`, opened: ['T-01'], typed: { 'Display 1': '60.4', 'Reference 1': '60', 'Its smallest step': '0.2' }, press: '',
    sends: `POST ${API}/calibration/preview`, body: { resolution_c: 0.2 }, refused: ['resolution_c', 'Its smallest step'],
  },
  'two probes exchanged': {
    at: `${RIG}/calibration`, typed: { 'First: pairs as they are: first probe 1': '60.4', 'First: pairs as they are: second probe 1': '60' }, press: 'Tell them apart',
    sends: `POST ${API}/calibration/exchange`, body: { before: [{ first_c: 60.4, second_c: 60 }], after: [] },
  },
  'the input alone': {
    at: `${RIG}/calibration`, typed: { 'Fed 1, Ω': '123.2', 'Shown 1': '60.3' }, press: 'Whose error is it?',
    sends: `POST ${API}/calibration/input`, body: { fed: [{ feed: 123.2, display_c: 60.3 }] },
  },
  'when to compare again': {
    at: `${RIG}/calibration`, opened: ['Another interval…'], typed: { Why: 'it is old' }, press: 'Keep it so',
    sends: `PUT ${API}/calibration/plan`, body: { why: 'it is old' }, refused: ['why', 'Why'],
  },
  'a copy of a rig': {
    at: `${RIG}/book`, opened: ['Make a copy'], typed: { 'Name of the copy': 'Second cabinet' }, press: 'Copy it',
    sends: `POST ${API}/double`, body: { name: 'Second cabinet' }, refused: ['name', 'Name of the copy'],
  },
  'where registers are': {
    at: '/maps', typed: { 'Address of the controller': '10.0.0.7', 'From address': '100' }, press: 'What answers?',
    sends: 'POST /api/v1/register-maps/scan', body: { host: '10.0.0.7', start: 100 }, refused: ['host', 'Address of the controller'],
  },
  'an instrument': {
    at: `${RIG}/runs`, opened: ['Add an instrument'], typed: { Name: 'Meter' }, press: 'Add it',
    sends: `POST ${API}/instruments`, body: { name: 'Meter' }, refused: ['name', 'Name'],
  },
  'how a rig begins': {
    at: `${RIG}/profiles`, opened: ['Load, start, price'], typed: { 'The rig is at': '35' }, press: '',
    sends: `POST ${API}/profiles-forecast`, body: { begins_c: 35 },
  },
  'when guards are proved': {
    at: `${RIG}/guarding`, opened: ['Limiter, fuse'], typed: { 'Proved every (days)': '200', 'Why (goes into the book)': 'dusty' }, press: 'Save the plan',
    sends: `PUT ${API}/guarding`, body: { why: 'dusty', plan: expect.objectContaining({ prove_days: 200 }) as unknown }, refused: ['prove_days', 'Proved every (days)'],
  },
  'a remark on a piece': {
    at: '/equipment?piece=1', opened: ['Remark…'], typed: { 'Remark: done or seen': 'bent' }, press: 'Note it',
    sends: 'POST /api/v1/equipment/1/remarks', body: { text: 'bent' }, refused: ['text', 'Remark: done or seen'],
  },
  'a bench question': {
    at: '/questions/cascade', typed: { 'It is to hold': '410' }, press: '',
    sends: 'POST /api/v1/questions/cascade', body: { values: expect.objectContaining({ working_c: 410 }) as unknown },
  },
} // prettier-ignore

const type = (label: string, value: string) => {
  const field = screen.getAllByLabelText(label)[0]!
  fireEvent.change(field, { target: { value } })
  fireEvent.blur(field)
}
const press = (name: string | RegExp) => {
  const found = screen.getAllByText(name, { ignore: 'svg *, option' })
  const it = found.find((element) => element.closest('button, summary, label')) ?? found[0]!
  fireEvent.click(it)
  const folded = it.closest('summary') && it.closest('details')
  if (folded) fireEvent(folded, new Event('toggle')) // which jsdom keeps to itself
}

test.each(Object.entries(FORMS))(
  '%s: what is typed goes out, and what is refused is said beside its field',
  { timeout: 40_000 },
  async (_, form) => {
    await demo.open(form.at)
    form.opened?.forEach(press)
    const send = () => {
      for (const [label, value] of Object.entries(form.typed)) type(label, value)
      demo.sent = []
      if (form.press) press(form.press)
    }
    const gone = () => waitFor(() => expect(demo.sent).toContainEqual(expect.objectContaining(request(form))), { timeout: 5000 })
    if (form.refused) {
      const [field, label] = form.refused
      demo.refuses = { field, reason: 'that cannot be here' }
      send()
      await gone()
      await waitFor(() => expect(screen.getAllByLabelText(label)[0]!.getAttribute('aria-invalid')).toBe('true'))
      expect(screen.getAllByText(/that cannot be here/).length).toBeGreaterThan(0)
      demo.refuses = null
    }
    if (form.refused && !form.press) return // it went out by being typed
    send()
    await gone()
  },
)

function request({ sends, body }: Form) {
  const [method, path] = sends.split(' ')
  return { method, path, body: expect.objectContaining(body) as unknown }
}
