import type { Schemas } from '../api/client'

export type Station = Schemas['Station']

/** Names of the stations on the spine, in working order (the order itself comes from the server). */
export const STATION_NAME: Record<Station, string> = {
  purpose: 'Purpose',
  parts: 'Parts',
  wiring: 'Wiring',
  setup: 'Set-up',
  guarding: 'Guarding',
  tuning: 'Tuning',
  profiles: 'Profiles',
  runs: 'Runs',
  calibration: 'Calibration',
  book: 'Book',
}

export const STATIONS = Object.keys(STATION_NAME) as Station[]

/** The station a digit goes to; 0 is the tenth. */
export const stationAt = (key: string): Station | undefined => (/^\d$/.test(key) ? STATIONS[(Number(key) + 9) % 10] : undefined)
