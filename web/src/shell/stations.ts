import type { Schemas } from '../api/client'

export type Station = Schemas['Station']

/** Names of the stations on the spine, in working order (the order itself comes from the server). */
export const STATION_NAME: Record<Station, string> = {
  purpose: 'Purpose',
  parts: 'Parts',
  wiring: 'Wiring',
  proving: 'Proving',
  setup: 'Set-up',
  guarding: 'Guarding',
  tuning: 'Tuning',
  profiles: 'Profiles',
  runs: 'Runs',
  calibration: 'Calibration',
  book: 'Book',
}

export const STATIONS = Object.keys(STATION_NAME) as Station[]

/** The station a key goes to: the digits as they lie on the keyboard, and the dash after them. */
export const stationAt = (key: string): Station | undefined => (key.length === 1 ? STATIONS['1234567890-'.indexOf(key)] : undefined)
