import { useOutletContext } from 'react-router'
import { api, need, type Rig } from '../api/client'
import { useChange, useDraft } from '../api/hooks'
import { Findings } from '../shared/Findings'
import { Overtaken } from '../shared/states'
import { ReasonOfPlace } from '../shell/reason'
import { draftOf, type PurposeInput } from './form'
import { PurposeForm } from './PurposeForm'
import { PurposeAdvice } from './PurposeAdvice'

export default function Purpose() {
  const rig = useOutletContext<Rig>()
  const draft = useDraft(rig)
  const change = useChange(rig.slug, async (purpose: PurposeInput) => {
    draft.end() // saved or refused: a second press is made on the state then shown
    return need(api.PUT('/api/v1/rigs/{slug}/purpose', { params: { path: { slug: rig.slug } }, body: { ...purpose, revision: draft.revision } }))
  })
  return (
    <>
      <h1>What must it hold, and what must never happen?</h1>
      {draft.overtaken && <Overtaken />}
      {rig.purpose_findings.length > 0 && <Findings rig={rig} findings={rig.purpose_findings} fine="" />}
      <PurposeForm onTouch={draft.begin} start={draftOf(rig)} action="Save the purpose" error={change.error} busy={change.isPending} onSave={(p) => change.mutate(p)} />
      {change.isSuccess && <p role="status">Saved.</p>}
      <ReasonOfPlace>
        <PurposeAdvice />
      </ReasonOfPlace>
    </>
  )
}
