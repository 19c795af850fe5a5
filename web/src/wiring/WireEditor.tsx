import { useState } from 'react'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { SelectField } from '../shared/fields'
import { problemOf, Refused } from '../shared/states'
import { COLOURS } from './colours'

interface Props {
  rig: Rig
  wiring: Schemas['WiringView']
  wire: Schemas['WireView'] | null
  /** Terminals picked in the diagram for a new wire. */
  picked: string[]
  onRemoved: (wire: Schemas['WireView']) => void
  onAdded: () => void
}

/** Change the chosen wire, or add one between two terminals. */
export function WireEditor({ rig, wiring, wire, picked, onRemoved, onAdded }: Props) {
  const terminals = wiring.parts.flatMap((p) => p.terminals.map((t) => `${p.name}.${t.name}`))
  const path = { slug: rig.slug }
  const [draft, setDraft] = useState(wire ?? { a: picked[0] ?? '', b: picked[1] ?? '', area_mm2: 0, colour: '' })
  // told before the lists are fetched again: this editor is for one wire and is gone with it
  const save = useChange(rig.slug, async () => {
    await (wire
      ? need(api.PUT('/api/v1/rigs/{slug}/wiring/wires/{number}', { params: { path: { ...path, number: wire.number } }, body: { revision: rig.revision, ...draft } }))
      : need(api.POST('/api/v1/rigs/{slug}/wiring/wires', { params: { path }, body: { revision: rig.revision, a: draft.a, b: draft.b } })))
    if (!wire) onAdded()
  })
  const remove = useChange(rig.slug, async () => {
    await need(api.DELETE('/api/v1/rigs/{slug}/wiring/wires/{number}', { params: { path: { ...path, number: wire!.number }, query: { revision: rig.revision } } }))
    onRemoved(wire!)
  })
  const options = [['', 'choose…'], ...terminals.map((t) => [t, t])] as [string, string][]
  const error = save.error ?? remove.error
  const changed = !wire || wire.a !== draft.a || wire.b !== draft.b || wire.area_mm2 !== draft.area_mm2 || wire.colour !== draft.colour
  return (
    <section className="stack" aria-label={wire ? `Wire ${wire.number}` : 'New wire'}>
      <h2>{wire ? `Wire ${wire.number}` : 'New wire'}</h2>
      <div className="grid2">
        <SelectField label="From" value={draft.a} options={options} onChange={(a) => setDraft({ ...draft, a })} problem={problemOf(error, 'a')} />
        <SelectField label="To" value={draft.b} options={options} onChange={(b) => setDraft({ ...draft, b })} problem={problemOf(error, 'b')} />
        {wire && (
          <>
            <SelectField
              label="Size"
              value={String(draft.area_mm2)}
              options={[...new Set([0.5, ...wiring.sizes, wire.area_mm2])].sort((a, b) => a - b).map((s) => [String(s), `${s} mm²`] as const)}
              onChange={(v) => setDraft({ ...draft, area_mm2: Number(v) })}
              problem={problemOf(error, 'area_mm2')}
            />
            <SelectField label="Colour" value={draft.colour} options={Object.keys(COLOURS).map((c) => [c, `${c} (${COLOURS[c]!.code})`] as const)} onChange={(colour) => setDraft({ ...draft, colour })} />
          </>
        )}
      </div>
      <Refused error={error} />
      <div className="row">
        <button className="button main" disabled={!draft.a || !draft.b || !changed || save.isPending} onClick={() => save.mutate(undefined)}>
          {wire ? 'Change it' : 'Add the wire'}
        </button>
        {wire && (
          <button className="button warn" disabled={remove.isPending} onClick={() => remove.mutate(undefined)}>
            Remove it
          </button>
        )}
      </div>
    </section>
  )
}
