import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useNavigate } from 'react-router'
import { api, need } from '../api/client'
import { focusFirstWrong } from '../api/hooks'
import { useDraft } from '../api/kept'
import { KindCautions } from '../shared/KindCautions'
import { EMPTY, type PurposeInput } from './form'
import { PurposeAdvice } from './PurposeAdvice'
import { PurposeForm } from './PurposeForm'

export default function NewRig() {
  const navigate = useNavigate()
  const queries = useQueryClient()
  const draft = useDraft('', 'new rig', EMPTY, 0)
  const create = useMutation({
    mutationFn: (purpose: PurposeInput) => need(api.POST('/api/v1/rigs', { body: purpose })),
    onError: focusFirstWrong,
    onSuccess: async (rig) => {
      draft.discard()
      await queries.invalidateQueries({ queryKey: ['workshop'] })
      void navigate(`/rigs/${rig.slug}/parts`)
    },
  })
  return (
    <div className="rig new">
      <main id="work" tabIndex={-1}>
        <h1>What must it hold, and what must never happen?</h1>
        <PurposeForm form={draft} action="Create the rig" error={create.error} busy={create.isPending} onSave={(p) => create.mutate(p)} />
      </main>
      <aside className="reason" aria-label="Reasons">
        <PurposeAdvice effect={draft.values.effect} />
        <KindCautions
          kind={draft.values.kind}
          station="purpose"
          watches={draft.values.effect === 'watches'}
          burns={!!draft.values.fire}
          pumps={draft.values.cooler?.cooled_by === 'compressor'}
        />
      </aside>
    </div>
  )
}
