import { api, need, type Rig, type Schemas } from '../../api/client'
import { useChange } from '../../api/hooks'
import { useDraft } from '../../api/kept'
import { Conflict } from '../../shared/Conflict'
import { Resumed } from '../../shared/Resumed'
import { useConductorColours } from '../../shared/conductors'
import { NumberField, SelectField, TextField } from '../../shared/fields'
import { problemOf, Refused } from '../../shared/states'
import { useWords } from '../../units/fields'
import type { List } from '../edits'
import { Terminal } from './Terminal'

interface Wish {
  a: string
  b: string
  area_mm2: number | null
  colour: string
  length_m: number
  insulation: string
  route: string
}

const wishOf = ({ a, b, area_mm2, colour, length_m, insulation, route }: Schemas['WireView']): Wish => ({
  a,
  b,
  area_mm2,
  colour,
  length_m,
  insulation,
  route,
})

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
  const { all: colours } = useConductorColours()
  const path = { slug: rig.slug }
  const form = useDraft<Wish>(
    rig.slug,
    wire ? `wire ${wire.number}` : `wire ${picked.join('>')}`,
    wire ? wishOf(wire) : { a: picked[0] ?? '', b: picked[1] ?? '', area_mm2: null, colour: '', length_m: 1.5, insulation: '', route: '' },
    wiring.revision,
  )
  const { label } = useWords()
  const draft = form.values
  const body = () => ({ revision: form.revision, ...draft })
  const save = useChange(rig.slug, async () => {
    await (wire
      ? need(api.PUT('/api/v1/rigs/{slug}/wiring/wires/{number}', { params: { path: { ...path, number: wire.number } }, body: body() }))
      : need(api.POST('/api/v1/rigs/{slug}/wiring/wires', { params: { path }, body: body() })))
    form.discard()
    if (!wire) onDone()
  })
  const remove = useChange(rig.slug, async () => {
    await need(
      api.DELETE('/api/v1/rigs/{slug}/wiring/wires/{number}', {
        params: { path: { ...path, number: wire!.number }, query: { revision: rig.revision } },
      }),
    )
    form.discard()
    onDone()
  })
  const error = save.error ?? remove.error
  const set = form.set
  const changed = !wire || form.touched
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
      <Resumed draft={form} />
      <Conflict draft={form} />
      <div className="grid2">
        <Terminal label={label('a')} value={draft.a} wiring={wiring} onChange={(a) => set({ a })} problem={problemOf(error, 'a')} />
        <Terminal
          label={label('b')}
          value={draft.b}
          wiring={wiring}
          like={1}
          onChange={(b) => set({ b })}
          problem={problemOf(error, 'b')}
        />
        <SelectField
          label={label('area_mm2')}
          value={draft.area_mm2 == null ? '' : String(draft.area_mm2)}
          options={[...(wire ? [] : [['', 'as its neighbours'] as const]), ...sizes.map((s) => [String(s), `${s} mm²`] as const)]}
          onChange={(v) => set({ area_mm2: v ? Number(v) : null })}
          problem={problemOf(error, 'area_mm2')}
        />
        <SelectField
          label={label('colour')}
          value={draft.colour}
          options={[
            ...(wire ? [] : [['', 'as its neighbours'] as const]),
            ...colours.map((c) => [c.name, `${c.name} (${c.code})`] as const),
          ]}
          onChange={(colour) => set({ colour })}
        />
        <NumberField
          label={label('length_m')}
          kind="metres"
          value={draft.length_m}
          onChange={(length_m) => set({ length_m: length_m ?? 0 })}
          problem={problemOf(error, 'length_m')}
        />
        <SelectField
          label={label('insulation')}
          value={draft.insulation}
          options={[['', 'not said'], ...wiring.coverings.map((c) => [c.key, c.words] as const)]}
          onChange={(insulation) => set({ insulation })}
        />
        <TextField label={label('route')} value={draft.route} onChange={(route) => set({ route })} problem={problemOf(error, 'route')} />
      </div>
      <Refused error={error} />
      <div className="row">
        <button className="button main" type="submit" disabled={!draft.a || !draft.b || !changed || !!form.theirs || save.isPending}>
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
