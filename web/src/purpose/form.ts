import { z } from 'zod'
import type { Rig, Schemas } from '../api/client'

export type PurposeInput = Schemas['PurposeInputRequest']

/** What is typed; a number not yet given is null. Ranges and reasons are the server's: here only what is missing. */
const given = z.number({ message: 'give a number' })
export const complete = z.object({
  name: z.string().trim().min(1, 'give it a name'),
  working_c: given,
  highest_c: given,
  highest_reason: z.string().trim().min(1, 'say what is spoiled above it'),
  supply_voltage_v: given,
  heater_power_w: given,
  heater_voltage_v: given,
  ambient_c: given,
  fire: z.object({ fire_w: given, idle_percent: given, dies_s: given }).nullish(),
  cooler: z
    .object({ cooled_by: z.string(), cooler_w: given, drive_w: z.number().nullish() })
    .refine((c) => c.cooled_by === 'turned' || c.drive_w != null, { path: ['drive_w'], message: 'give a number' })
    .nullish(),
  controls: z.object({ controls_v: given }).nullish(),
  own_mains: z.object({ made_w: given }).nullish(),
  heater_sensor: z.object({ most_c: given }).nullish(),
})

/** A fire as it is typed. */
export interface TypedFire {
  fire_w: number | null
  idle_percent: number | null
  dies_s: number | null
}

/** A cooler beside the heater as it is typed. */
export interface TypedCooler {
  cooled_by: Schemas['CooledByEnum']
  cooler_w: number | null
  drive_w: number | null
  coolant_c: number | null
  coldest_c: number | null
}

/** Whether a cooler lifts heat out of what is colder than the room. */
export const pumps = (by?: TypedCooler['cooled_by']) => by === 'compressor' || by === 'module' || by === 'turned'

/** What of a cooler belongs to this kind of it; the rest is left empty. */
export const coolerOf = (cooler: TypedCooler, by: TypedCooler['cooled_by']): TypedCooler => ({
  ...cooler,
  cooled_by: by,
  drive_w: by === 'turned' ? null : cooler.drive_w,
  coolant_c: by === 'valve' ? cooler.coolant_c : null,
  coldest_c: pumps(by) ? cooler.coldest_c : null,
})

/** What feeds the controls as it is typed. */
export interface TypedControls {
  fed_by: Schemas['FedByEnum']
  controls_v: number | null
}

/** A generator or inverter that makes the mains, as it is typed. */
export interface TypedOwnMains {
  made_by: Schemas['MadeByEnum']
  made_w: number | null
}

/** A second sensor at the heater as it is typed. */
export interface TypedHeaterSensor {
  most_c: number | null
  hotter_c: number | null
  lag_s: number | null
}

export type Draft = Omit<Typed, 'fire' | 'cooler' | 'controls' | 'own_mains' | 'heater_sensor'> & {
  fire?: TypedFire | null
  cooler?: TypedCooler | null
  controls?: TypedControls | null
  own_mains?: TypedOwnMains | null
  heater_sensor?: TypedHeaterSensor | null
}
type Typed = { [K in keyof PurposeInput]: PurposeInput[K] | (PurposeInput[K] extends number | undefined ? null : never) }

export const EMPTY: Draft = {
  name: '',
  kind: 'cabinet',
  effect: 'heats',
  working_c: null,
  highest_c: null,
  highest_reason: '',
  lowest_c: null,
  lowest_reason: '',
  ambient_c: 21,
  supply: 'single_phase',
  supply_voltage_v: 230,
  frequency_hz: 50,
  heater_power_w: null,
  heater_voltage_v: 230,
  materials: [],
  fire: null,
  cooler: null,
  controls: null,
  own_mains: null,
  heater_sensor: null,
}

export const draftOf = (rig: Rig): Draft => ({
  name: rig.name,
  kind: rig.kind as PurposeInput['kind'],
  ...rig.purpose,
  supply: rig.purpose.supply as PurposeInput['supply'],
})
