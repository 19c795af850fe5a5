import { useMutation } from '@tanstack/react-query'
import { useNavigate } from 'react-router'
import { api, need } from '../api/client'
import { useRefresh, useRigs } from '../api/hooks'
import { SelectField } from '../shared/fields'
import { Refused } from '../shared/states'
import type { Question, Values } from './data'

/** From the bench into a rig: the values as they stand are kept there, and the rig opens at them. */
export function KeepInRig({ question, values, refused }: { question: Question; values: Values; refused: boolean }) {
  const { data: rigs } = useRigs()
  const navigate = useNavigate()
  const refresh = useRefresh('')
  const keep = useMutation({
    mutationFn: async (slug: string) => {
      const rig = await need(api.GET('/api/v1/rigs/{slug}', { params: { path: { slug } } }))
      await need(
        api.PUT('/api/v1/rigs/{slug}/questions/{key}', {
          params: { path: { slug, key: question.key } },
          body: { revision: rig.revision, values },
        }),
      )
      await refresh()
      void navigate(`/rigs/${slug}/parts/${question.key}`)
    },
  })
  if (!rigs?.length) return null
  return (
    <>
      <span className="keep-in">
        <SelectField
          bare
          label="Keep it in a rig"
          value=""
          options={[['', 'Keep it in a rig…'], ...rigs.map((r) => [r.slug, r.name] as const)]}
          onChange={(slug) => slug && !refused && keep.mutate(slug)}
        />
      </span>
      <Refused error={keep.error} />
    </>
  )
}
