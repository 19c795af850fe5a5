import { useQuery } from '@tanstack/react-query'
import { api, need, type Schemas } from '../api/client'
import { useLatest } from '../api/useLatest'

export type Profile = Schemas['Profile']
export type Segment = Schemas['Segment']
export type Forecast = Schemas['ForecastView']
export type ProfilesView = Schemas['ProfilesView']
export type Tried = Omit<Schemas['TriedRequest'], 'profile'>

/** What a window works at: as it will be saved. */
export interface Work {
  name: string
  kind: string
  inputs: Record<string, unknown>
  profile: Profile
}

export const useProfiles = (slug: string, revision: number) =>
  useQuery({
    queryKey: ['of', slug, 'profiles', revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/profiles', { params: { path: { slug } } })),
    placeholderData: (before) => before,
  })

export const useProfile = (slug: string, key: string) =>
  useQuery({
    queryKey: ['of', slug, 'profile', key],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/profiles/{key}', { params: { path: { slug, key } } })),
    enabled: key !== '',
    placeholderData: (before) => (before?.key === key ? before : undefined),
  })

/** What the rig would make of it: one question on its way, the last answer drawn. */
export const useForecast = (slug: string, profile: Profile | null, tried: Tried) =>
  useLatest(profile && { ...tried, profile }, (body) =>
    need(api.POST('/api/v1/rigs/{slug}/profiles-forecast', { params: { path: { slug } }, body })),
  )

/** A programme that has not ended. */
export const GOING = ['running', 'back', 'paused']

export const KIND_WORDS: [Segment['kind'], string][] = [
  ['ramp_rate', 'ramp at a rate'],
  ['ramp_time', 'ramp in a time'],
  ['soak', 'soak'],
  ['step', 'step'],
  ['wait', 'wait'],
  ['end', 'end'],
]
const EMPTY: Omit<Segment, 'kind'> = {
  target_c: null,
  rate_c_per_min: null,
  time_s: null,
  holdback: null,
  wait: null,
  end: null,
  events: [],
  says: '',
  alarms: null,
  pid_set: 1,
}

/** A new segment after one, with what it needs filled in from there. */
export function another(profile: Profile, after: number): Profile {
  const soaks = profile.segments[after]?.kind !== 'soak'
  const made: Segment = soaks
    ? { ...EMPTY, kind: 'soak', time_s: 1800 }
    : { ...EMPTY, kind: 'ramp_rate', target_c: (targetBefore(profile, after + 1) ?? 20) + 20, rate_c_per_min: 2 }
  const at = Math.min(after + 1, profile.segments.length - 1)
  return shifted({ ...profile, segments: [...profile.segments.slice(0, at), made, ...profile.segments.slice(at)] }, at, 1)
}

export function without(profile: Profile, at: number): Profile {
  return shifted({ ...profile, segments: profile.segments.filter((_, i) => i !== at) }, at, -1)
}

/** Loops that stand behind a place move along; one that loses its only segment goes. */
function shifted(profile: Profile, at: number, by: number): Profile {
  const loops = profile.loops
    .map((l) => ({
      ...l,
      first: l.first - 1 > at || (by > 0 && l.first - 1 >= at) ? l.first + by : l.first,
      last: l.last - 1 >= at ? l.last + by : l.last,
    }))
    .filter((l) => l.last >= l.first)
  return { ...profile, loops }
}

/** A segment of another kind, what it needs taken over where it can be. */
export function ofKind(profile: Profile, at: number, kind: Segment['kind']): Segment {
  const was = profile.segments[at]!
  const target = was.target_c ?? targetBefore(profile, at) ?? 60
  const kept = { ...EMPTY, kind, says: was.says, events: was.events, alarms: was.alarms, pid_set: was.pid_set }
  if (kind === 'ramp_rate') return { ...kept, target_c: target, rate_c_per_min: was.rate_c_per_min ?? 2, holdback: was.holdback }
  if (kind === 'ramp_time') return { ...kept, target_c: target, time_s: was.time_s ?? 3600, holdback: was.holdback }
  if (kind === 'soak') return { ...kept, time_s: was.time_s ?? 1800, holdback: was.holdback }
  if (kind === 'step') return { ...kept, target_c: target }
  if (kind === 'wait') return { ...kept, wait: 'person' }
  return { ...kept, end: 'off' }
}

/** Where the set-point stands when a segment begins, as far as the profile says. */
export function targetBefore(profile: Profile, at: number): number | null {
  for (let i = Math.min(at, profile.segments.length) - 1; i >= 0; i--) {
    const s = profile.segments[i]!
    if (s.target_c != null && s.kind !== 'wait') return s.target_c
  }
  return profile.start === 'value' ? profile.start_c : null
}

/** A corner moved by hand: its temperature, and how long its segment lasts. */
export function dragged(profile: Profile, at: number, celsius: number, lasts: number, from: number): Profile {
  const s = profile.segments[at]!
  const time_s = Math.max(lasts, 1)
  const changed: Segment =
    s.kind === 'soak'
      ? { ...s, time_s }
      : s.kind === 'ramp_time'
        ? { ...s, target_c: celsius, time_s }
        : s.kind === 'ramp_rate'
          ? { ...s, target_c: celsius, rate_c_per_min: neat((Math.abs(celsius - from) / time_s) * 60) }
          : { ...s, target_c: celsius }
  return { ...profile, segments: profile.segments.map((old, i) => (i === at ? changed : old)) }
}

/** How long a segment lasts as it is asked, s; from where its set-point begins. */
export function lasts(s: Segment, from: number): number {
  if (s.kind === 'ramp_rate') return (Math.abs((s.target_c ?? from) - from) / (s.rate_c_per_min || 1)) * 60
  return s.time_s ?? 0
}

/** Three figures: nobody means more by a drag. */
const neat = (value: number) => Number(Math.max(value, 1e-4).toPrecision(3))

export const BEGINNING: Profile = {
  segments: [
    { ...EMPTY, kind: 'ramp_rate', target_c: 60, rate_c_per_min: 2 },
    { ...EMPTY, kind: 'soak', time_s: 3600, holdback: { band_c: 3, side: 'below' } },
    { ...EMPTY, kind: 'end', end: 'off' },
  ],
  loops: [],
  start: 'reading',
  start_c: null,
  after_power: { resume_c: 5, ramp_back_c: 50, longest_s: 3600, beyond: 'abort' },
}
