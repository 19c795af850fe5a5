import { useQuery } from '@tanstack/react-query'
import { api, need, type Schemas } from '../api/client'
import { usePreferences } from '../shell/preferences'
import { said } from './message'
import { say, type Unit } from './quantity'

export type FieldWords = Pick<Schemas['FieldWords'], 'label' | 'choices'> & { kind: Schemas['FieldWords']['kind'] | null }

/** ``pairs[0].display_c`` → the field at its end, and which of several it is (from 1). */
const partsOf = (path: string): [string, number | null] => {
  const place = /\[(\d+)\]/.exec(path)
  return [
    path
      .split('.')
      .at(-1)!
      .replace(/\[\d+\]$/, ''),
    place ? Number(place[1]) + 1 : null,
  ]
}

/** A name nobody has described: its words. */
const spelled = (name: string) => {
  const words = name.replace(/_(c|w|v|s|a|mm2)$/, '').replaceAll('_', ' ')
  return words.charAt(0).toUpperCase() + words.slice(1)
}

export function labelOf(known: Map<string, FieldWords>, path: string): string {
  const [name, which] = partsOf(path)
  return (known.get(name)?.label ?? spelled(name)) + (which ? `, ${which}` : '')
}

/** A stored value as the screens say it. */
export function valueOf(known: Map<string, FieldWords>, path: string, value: unknown, unit: Unit): string {
  if (value == null || value === '') return '–'
  const field = known.get(partsOf(path)[0])
  const choice = field?.choices.find(([key]) => key === String(value))?.[1]
  if (choice) return choice
  if (typeof value === 'number') return say(value, field?.kind ?? null, unit)
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (Array.isArray(value)) return value.map((v) => valueOf(known, '', v, unit)).join(', ') || '–'
  if (typeof value === 'object')
    return Object.entries(value)
      .map(([k, v]) => `${labelOf(known, k)} ${valueOf(known, k, v, unit)}`)
      .join(', ')
  return said(String(value), unit)
}

const NONE: Schemas['FieldWords'][] = []

/** How fields and their values are called, from the one description of them. */
export function useWords() {
  const { unit } = usePreferences()
  const { data = NONE } = useQuery({ queryKey: ['fields'], queryFn: () => need(api.GET('/api/v1/fields')), staleTime: Infinity })
  const known = new Map<string, FieldWords>(data.map((f) => [f.name, f]))
  return {
    label: (path: string) => labelOf(known, path),
    says: (path: string, value: unknown) => valueOf(known, path, value, unit),
    /** What may be chosen in a field, as a select takes it. */
    choices: (name: string) => (known.get(name)?.choices ?? []) as [string, string][],
    kind: (name: string) => known.get(name)?.kind ?? undefined,
  }
}
