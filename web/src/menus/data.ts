import { useQuery } from '@tanstack/react-query'
import { api, need, type Schemas } from '../api/client'

export type Description = Schemas['Description']
export type Page = Schemas['Page']
export type Group = Schemas['Group']
export type Gesture = Schemas['Gesture']
export type WalkStep = Schemas['WalkStep']
export type RigController = Schemas['RigControllerView']

/** What stands on the display for a page's counts; the core says the same of a panel (`PanelView.display`). */
export function shown(page: Page, counts: number): string {
  if (page.choices.length) return page.choices[counts]?.code ?? '?'
  if (page.low >= page.high) return ''
  if (!page.decimals) return String(counts)
  const digits = String(Math.abs(counts)).padStart(page.decimals + 1, '0')
  return `${counts < 0 ? '-' : ''}${digits.slice(0, -page.decimals)}.${digits.slice(-page.decimals)}`
}

/** The counts of what was typed as it is shown; ``null`` where the page cannot show that. */
export function read(page: Page, text: string): number | null {
  const asked = text.trim().replace(',', '.').replace('−', '-')
  if (page.choices.length) {
    const at = page.choices.findIndex((c) => c.code.toLowerCase() === asked.toLowerCase())
    return at < 0 ? null : at
  }
  if (!/^-?\d+(\.\d*)?$/.test(asked)) return null
  const counts = Math.round(Number(asked) * 10 ** page.decimals)
  return counts >= page.low && counts <= page.high ? counts : null
}

/** The pages of all groups, in their order, each with its group. */
export const pagesOf = (description: Description): { page: Page; group: Group }[] =>
  description.groups.flatMap((group) => group.pages.map((page) => ({ page, group })))

export function useControllers() {
  return useQuery({ queryKey: ['controllers'], queryFn: () => need(api.GET('/api/v1/controllers')) })
}
