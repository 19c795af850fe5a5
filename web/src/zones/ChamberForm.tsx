import { useMutation, useQueryClient } from '@tanstack/react-query'
import { api, need } from '../api/client'
import { focusFirstWrong } from '../api/hooks'
import { NumberField, SelectField, TextField } from '../shared/fields'
import { problemOf, Refused } from '../shared/states'
import type { ChamberView } from './data'
import { useWords } from '../units/fields'

export interface Draft {
  name: string
  zones: string[]
  along_percent: number[]
  supply_w: number | null
}

interface Props {
  draft: Draft
  setDraft: (draft: Draft) => void
  /** Rigs that can be chosen, by slug and name. */
  rigs: (readonly [string, string])[]
  usual: number
  chamber?: ChamberView
  onDone: (chamber: ChamberView) => void
}

/** Which rigs lie beside one another, how far a neighbour comes along, and what the supply carries. */
export function ChamberForm({ draft, setDraft, rigs, usual, chamber, onDone }: Props) {
  const { label } = useWords()
  const queries = useQueryClient()
  const save = useMutation({
    mutationFn: () =>
      chamber
        ? need(api.PUT('/api/v1/chambers/{id}', { params: { path: { id: chamber.id } }, body: { ...draft, revision: chamber.revision } }))
        : need(api.POST('/api/v1/chambers', { body: draft })),
    onSuccess: (found) => {
      void queries.invalidateQueries()
      onDone(found)
    },
    onError: focusFirstWrong,
  })
  const problem = (field: string) => problemOf(save.error, field)
  const resize = (n: number) =>
    setDraft({
      ...draft,
      zones: Array.from({ length: n }, (_, i) => draft.zones[i] ?? ''),
      along_percent: Array.from({ length: n - 1 }, (_, i) => draft.along_percent[i] ?? usual),
    })
  return (
    <form
      className="stack chamber-form"
      onSubmit={(e) => {
        e.preventDefault()
        save.mutate()
      }}
    >
      <TextField
        label="Name of the chamber"
        value={draft.name}
        onChange={(name) => setDraft({ ...draft, name })}
        problem={problem('name')}
      />
      {draft.zones.map((slug, i) => (
        <div key={i} className="stack">
          {i > 0 && (
            <NumberField
              label={label('along_percent')}
              kind="percent"
              hint={`of its rise above the room; until it was tried ${usual} %`}
              value={draft.along_percent[i - 1] ?? usual}
              onChange={(v) => setDraft({ ...draft, along_percent: draft.along_percent.map((a, k) => (k === i - 1 ? (v ?? NaN) : a)) })}
              problem={problem(`along_percent[${i - 1}]`)}
            />
          )}
          <SelectField
            label={`Zone ${i + 1}`}
            value={slug}
            options={[['', 'Choose a rig'] as const, ...rigs]}
            onChange={(chosen) => setDraft({ ...draft, zones: draft.zones.map((z, k) => (k === i ? chosen : z)) })}
            problem={problem(`zones[${i}]`)}
          />
        </div>
      ))}
      <div className="row">
        {draft.zones.length < 3 ? (
          <button type="button" className="button" onClick={() => resize(3)}>
            A third zone
          </button>
        ) : (
          <button type="button" className="button" onClick={() => resize(2)}>
            Without the third
          </button>
        )}
      </div>
      <NumberField
        label="The supply of all of them gives (if one feeds all)"
        kind="power"
        value={draft.supply_w}
        onChange={(supply_w) => setDraft({ ...draft, supply_w })}
        problem={problem('supply_w')}
      />
      <Refused error={save.error} />
      <div className="row">
        <button className="button main" disabled={save.isPending}>
          {chamber ? 'Save the zones' : 'Join them'}
        </button>
      </div>
    </form>
  )
}
