import type { Mark } from '../shared/TemperatureScale'
import { type Draft, pumps } from './form'

/** From the lowest to the highest that are allowed, where both are known. */
export const windowOf = (d: Draft): [number, number] | undefined =>
  d.working_c != null && d.highest_c != null && d.highest_c > d.working_c
    ? [Math.min(d.lowest_c ?? d.working_c, d.working_c), d.highest_c]
    : undefined

/** What stands on the scale. */
export function marksOf(d: Draft): Mark[] {
  const freezes = d.effect === 'cools' || pumps(d.cooler?.cooled_by)
  const marks: Mark[] = [{ celsius: d.ambient_c ?? 21, name: 'room', tone: 'dim' }]
  if (d.lowest_c != null)
    marks.push({
      celsius: d.lowest_c,
      name: d.effect === 'heats' && !freezes ? 'lowest useful' : 'lowest allowed',
      says: d.lowest_reason ?? '',
      tone: freezes ? 'danger' : undefined,
    })
  if (d.working_c != null) marks.push({ celsius: d.working_c, name: d.effect === 'watches' ? 'usual' : 'working', tone: 'fine' })
  if (d.highest_c != null)
    marks.push({
      celsius: d.highest_c,
      name: d.effect === 'cools' ? 'warmest' : 'highest allowed',
      says: d.highest_reason,
      tone: d.effect === 'cools' ? undefined : 'danger',
    })
  for (const m of d.materials ?? [])
    if (m.name && Number.isFinite(m.limit_c))
      marks.push({
        celsius: m.limit_c,
        name: m.name,
        says: 'stands no more',
        tone: d.highest_c != null && m.limit_c < d.highest_c ? 'danger' : 'dim',
      })
  return marks
}
