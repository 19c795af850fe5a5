import { useOutletContext } from 'react-router'
import { api, need, type Rig } from '../api/client'
import { useChange } from '../api/hooks'
import { useDraft } from '../api/kept'
import { Findings } from '../shared/Findings'
import { ReasonOfPlace } from '../shell/reason'
import { draftOf, type PurposeInput } from './form'
import { PurposeForm } from './PurposeForm'
import { PurposeAdvice } from './PurposeAdvice'

export default function Purpose() {
  const rig = useOutletContext<Rig>()
  const draft = useDraft(rig.slug, 'purpose', draftOf(rig), rig.revision)
  const change = useChange(rig.slug, (purpose: PurposeInput) =>
    need(api.PUT('/api/v1/rigs/{slug}/purpose', { params: { path: { slug: rig.slug } }, body: { ...purpose, revision: draft.revision } })),
  )
  const watches = draft.values.effect === 'watches'
  return (
    <>
      <h1>{watches ? 'Between what must it stay?' : 'What must it hold, and what must never happen?'}</h1>
      {rig.purpose_findings.length > 0 && <Findings rig={rig} findings={rig.purpose_findings} fine="" />}
      <PurposeForm
        form={draft}
        action="Save the purpose"
        error={change.error}
        busy={change.isPending}
        onSave={(p) => change.mutate(p, { onSuccess: draft.discard })}
      />
      {change.isSuccess && <p role="status">Saved.</p>}
      <ReasonOfPlace>
        <PurposeAdvice effect={draft.values.effect} />
      </ReasonOfPlace>
    </>
  )
}
