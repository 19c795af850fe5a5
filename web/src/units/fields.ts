import { useQuery } from '@tanstack/react-query'
import { api, need, type Schemas } from '../api/client'
import { usePreferences } from '../shell/preferences'
import { said } from './message'
import { say, type Unit } from './quantity'

export type FieldWords = Pick<Schemas['FieldWords'], 'label' | 'choices'> & { kind: Schemas['FieldWords']['kind'] | null }

/** ``pairs[0].display_c`` → its name, and with what it is in before that, the longest first; and which of several it is (from 1). */
const partsOf = (path: string): [string[], number | null] => {
  const place = /\[(\d+)\]/.exec(path)
  const names = path.replaceAll(/\[\d+\]/g, '').split('.')
  return [names.map((_, i) => names.slice(i).join('.')), place ? Number(place[1]) + 1 : null]
}

const found = (known: Map<string, FieldWords>, path: string) => {
  for (const name of partsOf(path)[0]) if (known.has(name)) return known.get(name)
  return undefined
}

/** A name nobody has described: its words. */
const spelled = (name: string) => {
  const words = name.replace(/_(c_per_min|c|w|v|s|h|a|m|mm|mm2|kg|hz|ohm|percent)$/, '').replaceAll('_', ' ')
  return words.charAt(0).toUpperCase() + words.slice(1)
}

export function labelOf(known: Map<string, FieldWords>, path: string): string {
  const [names, which] = partsOf(path)
  return (found(known, path)?.label ?? spelled(names.at(-1)!)) + (which ? `, ${which}` : '')
}

/** A stored value as the screens say it. */
export function valueOf(known: Map<string, FieldWords>, path: string, value: unknown, unit: Unit): string {
  if (value == null || value === '') return '–'
  const field = found(known, path)
  const choice = field?.choices.find(([key]) => key === String(value))?.[1]
  if (choice) return choice
  if (typeof value === 'number') return say(value, field?.kind ?? null, unit)
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (Array.isArray(value)) return value.map((v) => valueOf(known, path, v, unit)).join(', ') || '–'
  if (typeof value === 'object')
    return Object.entries(value)
      .map(([k, v]) => `${labelOf(known, `${path}.${k}`)} ${valueOf(known, `${path}.${k}`, v, unit)}`)
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
