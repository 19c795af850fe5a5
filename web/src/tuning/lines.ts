import type { Schemas } from '../api/client'

export type Candidate = Schemas['CandidateView']
export type Course = Schemas['TrialCourse']
export type Trial = Schemas['TrialsInputRequest']['trial']

export const BY_HAND = 'by_hand'

/** Line colours that stay apart for colour-blind eyes; dashes tell them apart in black and white. */
export const LINES = [
  { day: '#d8450f', night: '#ff8a52', type: 'solid' },
  { day: '#2c5a6b', night: '#7fb4c4', type: 'solid' },
  { day: '#7a6a2c', night: '#cdbb6a', type: [8, 3] },
  { day: '#6b4c86', night: '#bfa0dc', type: [2, 3] },
  { day: '#1d6f42', night: '#79c99b', type: [12, 3, 2, 3] },
  { day: '#8c2f52', night: '#e594b2', type: [5, 5] },
  { day: '#444444', night: '#d0d0d0', type: [1, 2] },
] as const

/** Those that are drawn: what the priorities choose, what is set now, on/off, and the one picked. */
export function drawn(data: Schemas['TuningView'], picked: string): string[] {
  const known = new Set(data.candidates.map((c) => c.key))
  const wanted = [...Object.values(data.preferred), 'now', 'on_off', picked]
  return [...new Set(wanted)].filter((key) => known.has(key))
}
