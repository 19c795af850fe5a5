// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from '@testing-library/react'
import { afterEach, expect, test, vi } from 'vitest'
import { Preferences } from '../shell/preferences'
import { ReasonPanel, Reasons } from '../shell/reason'
import { Ladder } from './Ladder'
import { celsiusOf, moved, type LadderView, type Plan, type Step, valueAt } from './plan'

afterEach(cleanup)

const step = (rung: Step['rung'], key: string, celsius: number, target = ''): Step => ({
  rung,
  key,
  name: key,
  celsius,
  low: celsius,
  high: celsius,
  says: '',
  target,
})
const STEPS = [
  step('working', 'working', 60),
  step('running', 'running', 62),
  step('alarm', 'alarm 0', 64, 'guarding.alarm.0'),
  step('limiter', 'limiter', 70, 'guarding.limiter_trip_c'),
  step('highest', 'highest', 80),
  step('material', 'seal', 300),
]
const needed = { name: 'needed', value: 8, kind: 'temperature_difference', unit: '°C', formula: 'a + b', inputs: [], reason: '', source: '', school: '', symbol: '', low: null, high: null } // prettier-ignore
const LADDER = {
  steps: STEPS,
  gaps: [{ key: 'g', below: 'limiter', above: 'highest', present_c: 5, needed, reason: 'Stored heat still comes.', fine: false }],
  weakest: 'highest',
  setpoint_c: 60,
} as unknown as LadderView

const ALARM = { kind: 'above_setpoint', value: 4 }
const PLAN = {
  alarms: [{ name: 'Too hot', alarm: ALARM }],
  limiter: { trip_c: 70 },
  fuse: { rating_c: 98, holding_c: 73 },
  policy: { school: 'stop', hold_s: 0 },
} as unknown as Plan

test('steps of the plan are moved by the arrow keys, others are not, and a narrow gap says why', () => {
  const onMove = vi.fn()
  render(
    <Preferences>
      <Reasons>
        <Ladder ladder={LADDER} plan={PLAN} setpointLimit={null} height={440} onMove={onMove} />
        <ReasonPanel />
      </Reasons>
    </Preferences>,
  )
  const sliders = screen.getAllByRole('slider')
  expect(sliders).toHaveLength(2)
  const limiter = screen.getByRole('slider', { name: /^limiter/ })
  fireEvent.keyDown(limiter, { key: 'ArrowUp' })
  expect(onMove).toHaveBeenLastCalledWith(STEPS[3], 70.5)
  fireEvent.keyDown(limiter, { key: 'PageDown' })
  expect(onMove).toHaveBeenLastCalledWith(STEPS[3], 65)
  fireEvent.keyDown(limiter, { key: 'Tab' })
  expect(onMove).toHaveBeenCalledTimes(2)
  fireEvent.click(screen.getByRole('button', { name: /limiter to highest.*too narrow/ }))
  expect(screen.getByText('Stored heat still comes.')).toBeTruthy()
  expect(screen.getByText(/above: seal 300/)).toBeTruthy()
})

test('what is moved on the ladder changes just that of the plan', () => {
  expect(moved(PLAN, 'guarding.limiter_trip_c', 72)?.limiter?.trip_c).toBe(72)
  expect(moved(PLAN, 'guarding.fuse_rating_c', 110)?.fuse).toMatchObject({ rating_c: 110, holding_c: 85 })
  expect(moved(PLAN, 'guarding.hold_s', 3)?.policy.hold_s).toBe(3)
  expect(moved(PLAN, 'guarding.alarm.0', 5)?.alarms[0]?.alarm.value).toBe(5)
  expect(moved(PLAN, 'guarding.alarm.7', 5)).toBeNull()
  expect(moved(PLAN, 'setup.setpoint_high_c', 70)).toBeNull()
  expect(moved(PLAN, 'guarding.limiter', true)).toBeNull()
  expect(valueAt(PLAN, STEPS[2]!, 66, 60)).toBe(6) // an alarm beside the set-point of 60 is set in degrees from it
  expect(valueAt(PLAN, STEPS[3]!, 66, 60)).toBe(66)
  expect(celsiusOf(PLAN, STEPS[2]!, 60)).toBe(64)
  expect(celsiusOf({ ...PLAN, limiter: { ...PLAN.limiter!, trip_c: 68 } }, STEPS[3]!, 60)).toBe(68)
})
