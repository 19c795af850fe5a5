import { useId, useState } from 'react'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { NumberField, SelectField, TextField } from '../shared/fields'
import { problemOf, Refused } from '../shared/states'
import { COLOURS } from './colours'
import type { List } from './edits'

interface Props {
  rig: Rig
  wiring: List
  wire: Schemas['WireView'] | null
  /** Terminals picked in the diagram for a new wire. */
  picked: string[]
  onDone: () => void
}

/** Change the chosen wire, or add one between two terminals: typed with completion, or picked in the diagram. */
export function WireEditor({ rig, wiring, wire, picked, onDone }: Props) {
  const path = { slug: rig.slug }
  const [draft, setDraft] = useState(wire ?? { a: picked[0] ?? '', b: picked[1] ?? '', area_mm2: null, colour: '', length_m: 1.5, insulation: '', route: '' })
  const body = () => ({ revision: rig.revision, a: draft.a, b: draft.b, area_mm2: draft.area_mm2, colour: draft.colour, length_m: draft.length_m, insulation: draft.insulation, route: draft.route })
  const save = useChange(rig.slug, async () => {
    await (wire ? need(api.PUT('/api/v1/rigs/{slug}/wiring/wires/{number}', { params: { path: { ...path, number: wire.number } }, body: body() })) : need(api.POST('/api/v1/rigs/{slug}/wiring/wires', { params: { path }, body: body() })))
    if (wire) return
    setDraft({ ...draft, a: '', b: '' })
    onDone()
  })
  const remove = useChange(rig.slug, async () => {
    await need(api.DELETE('/api/v1/rigs/{slug}/wiring/wires/{number}', { params: { path: { ...path, number: wire!.number }, query: { revision: rig.revision } } }))
    onDone()
  })
  const error = save.error ?? remove.error
  const set = (part: Partial<typeof draft>) => setDraft({ ...draft, ...part } as typeof draft)
  const changed = !wire || JSON.stringify(wire) !== JSON.stringify(draft)
  const sizes = [...new Set([0.5, ...wiring.sizes, ...(wire ? [wire.area_mm2] : [])])].sort((a, b) => a - b)
  return (
    <form
      className="stack"
      aria-label={wire ? `Wire ${wire.number}` : 'New wire'}
      onSubmit={(e) => {
        e.preventDefault()
        save.mutate(undefined)
      }}
    >
      <h2>{wire ? `Wire ${wire.number}` : 'New wire'}</h2>
      <div className="grid2">
        <Terminal label="From" value={draft.a} wiring={wiring} onChange={(a) => set({ a })} error={error} field="a" />
        <Terminal label="To" value={draft.b} wiring={wiring} onChange={(b) => set({ b })} error={error} field="b" />
        <SelectField
          label="Size"
          value={draft.area_mm2 == null ? '' : String(draft.area_mm2)}
          options={[...(wire ? [] : [['', 'as its neighbours'] as const]), ...sizes.map((s) => [String(s), `${s} mm²`] as const)]}
          onChange={(v) => set({ area_mm2: v ? Number(v) : null } as Partial<typeof draft>)}
          problem={problemOf(error, 'area_mm2')}
        />
        <SelectField label="Colour" value={draft.colour} options={[...(wire ? [] : [['', 'as its neighbours'] as const]), ...Object.keys(COLOURS).map((c) => [c, `${c} (${COLOURS[c]!.code})`] as const)]} onChange={(colour) => set({ colour })} />
        <NumberField label="Length" kind="metres" value={draft.length_m} onChange={(length_m) => set({ length_m: length_m ?? 0 })} problem={problemOf(error, 'length_m')} />
        <SelectField label="Covering" value={draft.insulation} options={[['', 'not said'], ...wiring.coverings.map((c) => [c.key, c.words] as const)]} onChange={(insulation) => set({ insulation })} />
        <TextField label="Duct or bundle" value={draft.route} onChange={(route) => set({ route })} problem={problemOf(error, 'route')} />
      </div>
      <Refused error={error} />
      <div className="row">
        <button className="button main" type="submit" disabled={!draft.a || !draft.b || !changed || save.isPending}>
          {wire ? 'Change it' : 'Add the wire'}
        </button>
        {wire && (
          <button className="button warn" type="button" disabled={remove.isPending} onClick={() => remove.mutate(undefined)}>
            Remove it
          </button>
        )}
      </div>
    </form>
  )
}

interface TerminalProps {
  label: string
  value: string
  wiring: List
  field: 'a' | 'b'
  error: unknown
  onChange: (value: string) => void
}

/** A terminal, typed as it is written; the browser completes it, with the number on the user's own part beside it. */
function Terminal({ label, value, wiring, field, error, onChange }: TerminalProps) {
  const id = useId()
  const problem = problemOf(error, field)
  return (
    <div className="field">
      <label htmlFor={id}>{label}</label>
      <input id={id} className="num" list={`${id}-list`} autoComplete="off" value={value} placeholder="part.terminal" aria-invalid={problem ? true : undefined} onChange={(e) => onChange(e.target.value)} />
      <datalist id={`${id}-list`}>
        {wiring.parts.flatMap((p) =>
          p.terminals.map((t) => (
            <option key={`${p.name}.${t.name}`} value={`${p.name}.${t.name}`}>
              {[p.own || p.title, p.numbers[t.name]].filter(Boolean).join(', ')}
            </option>
          )),
        )}
      </datalist>
      {problem && (
        <span className="wrong">
          {problem.reason}. Accepted: {problem.accepted}.
        </span>
      )}
    </div>
  )
}
