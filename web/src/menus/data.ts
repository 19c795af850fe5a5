import { useQuery } from '@tanstack/react-query'
import { api, need, type Rig, type Schemas } from '../api/client'

export type Description = Schemas['Description']
export type Page = Schemas['Page']
export type Group = Schemas['Group']
export type Gesture = Schemas['Gesture']
export type WalkStep = Schemas['WalkStep']
export type RigController = Schemas['RigControllerView']

/** The pages of all groups, in their order, each with its group. */
export const pagesOf = (description: Description): { page: Page; group: Group }[] =>
  description.groups.flatMap((group) => group.pages.map((page) => ({ page, group })))

/** Values as they are keyed into a rig's controller: on its pages, or into its source text. */
export function useKeyed(rig: Rig, values: Record<string, unknown>) {
  return useQuery({
    queryKey: ['of', rig.slug, 'keyed', rig.revision, values],
    queryFn: () => need(api.POST('/api/v1/rigs/{slug}/controller/keyed', { params: { path: { slug: rig.slug } }, body: { values } })),
    placeholderData: (before) => before,
    retry: false,
  }).data
}

export function useControllers() {
  return useQuery({ queryKey: ['controllers'], queryFn: () => need(api.GET('/api/v1/controllers')) })
}
