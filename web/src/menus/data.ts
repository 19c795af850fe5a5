import { useQuery } from '@tanstack/react-query'
import { api, need, type Schemas } from '../api/client'

export type Description = Schemas['Description']
export type Page = Schemas['Page']
export type Group = Schemas['Group']
export type Gesture = Schemas['Gesture']
export type WalkStep = Schemas['WalkStep']
export type RigController = Schemas['RigControllerView']

/** The pages of all groups, in their order, each with its group. */
export const pagesOf = (description: Description): { page: Page; group: Group }[] =>
  description.groups.flatMap((group) => group.pages.map((page) => ({ page, group })))

export function useControllers() {
  return useQuery({ queryKey: ['controllers'], queryFn: () => need(api.GET('/api/v1/controllers')) })
}
