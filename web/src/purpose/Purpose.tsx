import { useState } from 'react'
import { useMutation } from '@tanstack/react-query'
import { Link, useOutletContext } from 'react-router'
import { api, need, type Rig, type Schemas } from '../api/client'
import { focusFirstWrong, useChange } from '../api/hooks'
import { same, useDraft } from '../api/kept'
import { Findings } from '../shared/Findings'
import { ReasonOfPlace } from '../shell/reason'
import { Consequences, hangs } from './Consequences'
import { draftOf, type PurposeInput } from './form'
import { PurposeForm } from './PurposeForm'
import { PurposeAdvice } from './PurposeAdvice'

export default function Purpose() {
  const rig = useOutletContext<Rig>()
  const draft = useDraft(rig.slug, 'purpose', draftOf(rig), rig.revision)
  const params = { path: { slug: rig.slug } }
  const change = useChange(rig.slug, (purpose: PurposeInput) =>
    need(api.PUT('/api/v1/rigs/{slug}/purpose', { params, body: { ...purpose, revision: draft.revision } })),
  )
  const [seen, setSeen] = useState<{ trial: Schemas['PurposeTrialView']; of: PurposeInput } | null>(null)
  const tried = useMutation({
    mutationFn: (purpose: PurposeInput) => need(api.POST('/api/v1/rigs/{slug}/purpose/try', { params, body: purpose })),
    onError: focusFirstWrong,
  })
  const shown = seen && same(seen.of, draft.values) ? seen.trial : null
  const keep = (purpose: PurposeInput) => change.mutate(purpose, { onSuccess: () => (draft.discard(), setSeen(null)) })
  /** Saved at once where nothing hangs on it; else what does is shown first. */
  const save = (purpose: PurposeInput) => {
    if (shown) return keep(purpose)
    change.reset()
    tried.mutate(purpose, {
      onSuccess: (trial) => (hangs(trial) ? setSeen({ trial, of: purpose }) : keep(purpose)),
    })
  }
  const watches = draft.values.effect === 'watches'
  return (
    <>
      <h1>{watches ? 'Between what must it stay?' : 'What must it hold, and what must never happen?'}</h1>
      {rig.zone_of && (
        <p>
          One zone of <Link to={`/zones/${rig.zone_of.id}`}>{rig.zone_of.name}</Link>: there is what all of them do together.
        </p>
      )}
      {rig.purpose_findings.length > 0 && <Findings rig={rig} findings={rig.purpose_findings} fine="" />}
      <PurposeForm
        form={draft}
        action={shown ? 'Save it so' : 'Save the purpose'}
        error={change.error ?? tried.error}
        busy={change.isPending || tried.isPending}
        onSave={save}
      >
        {shown && <Consequences trial={shown} />}
      </PurposeForm>
      {change.isSuccess && <p role="status">Saved.</p>}
      <ReasonOfPlace>
        <PurposeAdvice effect={draft.values.effect} />
      </ReasonOfPlace>
    </>
  )
}
