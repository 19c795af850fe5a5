import type { Problem } from '../api/client'
import { NumberField } from '../shared/fields'
import { usePreferences } from '../shell/preferences'
import { difference, differenceToCelsius } from '../units/quantity'

export const PER = { s: 1 / 60, min: 1, h: 60 } as const
export type Per = keyof typeof PER

interface Props {
  label: string
  value: number | null
  per: Per
  problem?: Problem
  onChange: (cPerMin: number | null) => void
}

/** A rate in the unit chosen. It is kept in °C/min as it was typed: to look at it in another unit changes nothing. */
export function RateField({ label, value, per, problem, onChange }: Props) {
  const { unit } = usePreferences()
  const shown = value == null ? null : Number((difference(value, unit) * PER[per]).toPrecision(6))
  return (
    <NumberField
      key={`${unit} ${per}`}
      label={`${label} (°${unit}/${per})`}
      value={shown}
      problem={problem}
      onChange={(typed) => onChange(typed == null ? null : differenceToCelsius(typed, unit) / PER[per])}
    />
  )
}
