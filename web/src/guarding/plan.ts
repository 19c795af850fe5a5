import type { Schemas } from '../api/client'

export type Plan = Schemas['Plan']
export type Planned = Schemas['PlannedAlarm']
export type AlarmSettings = Schemas['AlarmSettings']
export type LadderView = Schemas['LadderView']
export type Step = Schemas['Step']

/** The plan with one value moved, where the target is a part of it; ``null`` for anything else. */
export function moved(plan: Plan, target: string, value: unknown): Plan | null {
  if (typeof value !== 'number') return null
  const [, name, index] = target.split('.')
  if (target === 'guarding.hold_s') return { ...plan, policy: { ...plan.policy, hold_s: value } }
  if (target === 'guarding.limiter_trip_c' && plan.limiter) return { ...plan, limiter: { ...plan.limiter, trip_c: value } }
  if (target === 'guarding.maximum_c') return { ...plan, maximum_c: value }
  if (target === 'guarding.light_warm_c' && plan.light) return { ...plan, light: { ...plan.light, warm_c: value } }
  if (target === 'guarding.light_after_s' && plan.light) return { ...plan, light: { ...plan.light, after_s: value } }
  if (target === 'guarding.light_hot_c' && plan.light) return { ...plan, light: { ...plan.light, hot_c: value } }
  if (target === 'guarding.fuse_rating_c' && plan.fuse)
    return { ...plan, fuse: { ...plan.fuse, rating_c: value, holding_c: value - (plan.fuse.rating_c - plan.fuse.holding_c) } }
  if (target.startsWith('guarding.') && name === 'alarm' && plan.alarms[Number(index)]) return withAlarm(plan, Number(index), { value })
  return null
}

export function withAlarm(plan: Plan, index: number, part: Partial<AlarmSettings>): Plan {
  return { ...plan, alarms: plan.alarms.map((a, i) => (i === index ? { ...a, alarm: { ...a.alarm, ...part } } : a)) }
}

export function withPlanned(plan: Plan, index: number, part: Partial<Planned>): Plan {
  return { ...plan, alarms: plan.alarms.map((a, i) => (i === index ? { ...a, ...part } : a)) }
}

/** Where a step of the ladder may be moved: its value is not the chamber's temperature for all of them. */
export const movable = (step: Step) => (step.target.startsWith('guarding.') && step.rung !== 'fuse') || isSetpointLimit(step)

/** Its value is the controller's, set under Set-up: the plan has none. */
export const isSetpointLimit = (step: Step) => step.rung === 'setpoint_high' && step.target.startsWith('setup.')

const alarmOf = (plan: Plan, step: Step) => plan.alarms[Number(step.target.split('.')[2])]?.alarm

const SIDE: Partial<Record<AlarmSettings['kind'], number>> = { above_setpoint: 1, outside_band: 1, below_setpoint: -1 }

/** Where a step stands by the plan, which may be ahead of the ladder that is being computed for it. */
export function celsiusOf(plan: Plan, step: Step, setpoint: number): number {
  if (step.rung === 'limiter') return plan.limiter?.trip_c ?? step.celsius
  if (step.rung === 'maximum') return plan.maximum_c ?? step.celsius
  const alarm = step.rung === 'alarm' ? alarmOf(plan, step) : undefined
  if (!alarm) return step.celsius
  const side = SIDE[alarm.kind]
  return side ? setpoint + side * alarm.value : alarm.value
}

/** What a step that was moved to a temperature of the chamber sets: an alarm beside the set-point is set in degrees from it. */
export function valueAt(plan: Plan, step: Step, celsius: number, setpoint: number): number {
  const side = SIDE[alarmOf(plan, step)?.kind ?? 'high']
  return step.rung === 'alarm' && side ? Math.max(side * (celsius - setpoint), 0) : celsius
}
