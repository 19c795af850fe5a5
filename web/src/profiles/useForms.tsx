import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { useDraft } from '../api/kept'
import { Conflict } from '../shared/Conflict'
import { Refused } from '../shared/states'
import type { ProfilesView } from './data'

type Forms = Schemas['ProgrammeForms']

export interface OwnForms {
  forms: Forms
  set: (part: Partial<Forms>) => void
  keep: React.ReactNode
}

function says(_: string, value: unknown): string {
  if (typeof value === 'string') return value
  const { segments, ramp_by } = value as Forms['form']
  return `${segments} segments, ramps by ${ramp_by}`
}

/** How a rig's controller holds a programme and its firmware writes one; what is tried here is kept with the rig when that is asked. */
export function useForms(rig: Rig, view: ProfilesView): OwnForms {
  const draft = useDraft<Forms>(rig.slug, 'programme forms', view.forms, rig.revision)
  const forms = draft.values
  const save = useChange(rig.slug, () =>
    need(
      api.PUT('/api/v1/rigs/{slug}/profiles-forms', {
        params: { path: { slug: rig.slug } },
        body: { revision: draft.revision, forms },
      }),
    ),
  )
  return {
    forms,
    set: draft.set,
    keep: (
      <>
        <Conflict draft={draft} label={(f) => (f === 'form' ? 'How its controller holds it' : 'How its firmware writes it')} says={says} />
        <Refused error={save.error} />
        {draft.touched && (
          <div className="row">
            <button
              className="button"
              disabled={save.isPending || !!draft.theirs}
              onClick={() => save.mutate(undefined, { onSuccess: draft.discard })}
            >
              Keep this for the rig
            </button>
            <button className="button quiet" onClick={draft.discard}>
              Back to what is kept
            </button>
          </div>
        )}
      </>
    ),
  }
}
