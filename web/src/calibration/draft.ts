import type { Rig, Schemas } from '../api/client'
import { useDraft } from '../api/kept'

export type School = Schemas['SchoolEnum']
export type Says = Schemas['CertificateSaysEnum']
export type How = Required<Schemas['CircumstancesRequest']>
export type Compared = Schemas['CalibrationView']
export interface Row {
  display_c: number | null
  reference_c: number | null
}
export interface Typed {
  school: School
  rows: Row[]
  existing_c: number | null
  resolution_c: number | null
  limit_c: number | null
  setpoint_c: number | null
  display_digit_c: number | null
  /** Answers of the reference's form; empty before one is chosen. */
  compared_with: Record<string, unknown>
  instrument: number | null
  /** Near which temperature they are compared. */
  at_c: number | null
  certificate_c: number | null
  certificate_says: Says | null
  how: How
  reference: string
  anyway: string
}

const ROWS: Row[] = Array.from({ length: 3 }, () => ({ display_c: null, reference_c: null }))
const HOW: How = {
  reference_digit_c: 0,
  places_c: 0,
  drift_c_per_min: 0,
  follows_slower_s: 0,
  swing_c: 0,
  recovered: true,
  rose_c_per_min: 0,
  reference_slower_s: 0,
}

/** A number that cannot be read is kept as such, so that nothing is worked out without it. */
export const orUnreadable = (set: (value: number | null) => void) => (value: number | null, wrong: boolean) => set(wrong ? NaN : value)

/** What is typed at the bench: kept through leaving, a reload and a lost server. */
export const useComparison = (rig: Rig, data: Compared) =>
  useDraft<Typed>(
    rig.slug,
    'calibration',
    {
      school: data.school,
      rows: ROWS,
      existing_c: data.offset_c,
      resolution_c: data.step_c,
      limit_c: 20,
      setpoint_c: rig.purpose.working_c,
      display_digit_c: 0.1,
      compared_with: {},
      instrument: null,
      at_c: rig.purpose.working_c,
      certificate_c: null,
      certificate_says: null,
      how: HOW,
      reference: '',
      anyway: '',
    },
    data.revision,
  )
export type Draft = ReturnType<typeof useComparison>

/** The school that counts: the controller's own where something fixed it. */
export const schoolOf = (data: Compared, draft: Draft) => (data.school_fixed_by ? data.school : draft.values.school)

/** The answers of a reference's form that belong to its kind, without those left empty. */
export const answersOf = (compared_with: Typed['compared_with']) =>
  Object.fromEntries(Object.entries(compared_with).filter(([, value]) => value !== null))
