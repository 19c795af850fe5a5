import { useQuery } from '@tanstack/react-query'
import { api, need, type Schemas } from '../api/client'

export type Question = Schemas['QuestionView']
export type Field = Schemas['Field']
export type Answer = Schemas['Answer']
export type Values = Record<string, unknown>
export type Row = Record<string, unknown>

export const TOPICS: [Schemas['TopicEnum'], string][] = [
  ['sensor', 'Sensor'],
  ['load', 'Heater and load'],
  ['wire', 'Wire'],
  ['switch', 'Switch'],
  ['control', 'Control'],
  ['wall', 'Walls and heat'],
  ['cold', 'Cooling'],
  ['box', 'Box and panel'],
]

/** Every question, opened with what the rig knows when there is one. */
export const useQuestions = (slug?: string, revision?: number) =>
  useQuery({
    queryKey: slug ? ['of', slug, 'questions', revision] : ['questions'],
    queryFn: () => need(api.GET('/api/v1/questions', { params: { query: slug ? { rig: slug } : {} } })),
    staleTime: slug ? 0 : Infinity,
  })

/** A field is asked only while another one that is asked has one of the values it belongs to. */
export const asked = (field: Field, values: Values, all: Field[]): boolean =>
  !field.when_field ||
  (field.when_values.includes(String(values[field.when_field])) &&
    all.every((other) => other.name !== field.when_field || asked(other, values, all)))
