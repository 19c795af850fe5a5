import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { same, useKept } from '../api/kept'
import { Refused } from '../shared/states'
import type { ProfilesView } from './data'

type Forms = Schemas['ProgrammeForms']

export interface OwnForms {
  forms: Forms
  set: (part: Partial<Forms>) => void
  keep: React.ReactNode
}

/** How a rig's controller holds a programme and its firmware writes one; what is tried here is kept with the rig when that is asked. */
export function useForms(rig: Rig, view: ProfilesView): OwnForms {
  const [draft, setDraft] = useKept<Forms | null>(`programme forms ${rig.slug}`, null)
  const forms = draft ?? view.forms
  const save = useChange(rig.slug, () =>
    need(
      api.PUT('/api/v1/rigs/{slug}/profiles-forms', {
        params: { path: { slug: rig.slug } },
        body: { revision: rig.revision, forms },
      }),
    ),
  )
  const differs = !same(forms, view.forms)
  return {
    forms,
    set: (part) => setDraft({ ...forms, ...part }),
    keep: (
      <>
        <Refused error={save.error} />
        {differs && (
          <div className="row">
            <button
              className="button"
              disabled={save.isPending}
              onClick={() => save.mutate(undefined, { onSuccess: () => setDraft(null) })}
            >
              Keep this for the rig
            </button>
            <button className="button quiet" onClick={() => setDraft(null)}>
              Back to what is kept
            </button>
          </div>
        )}
      </>
    ),
  }
}
