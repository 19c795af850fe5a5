import { useEffect, useRef, useState } from 'react'
import { Link } from 'react-router'
import { api, need, type Rig } from '../../api/client'
import { useChange } from '../../api/hooks'
import { useLibrary } from '../../library/Library'
import { SelectField, TextField } from '../../shared/fields'
import { Said } from '../../shared/Said'
import { problemOf, Refused } from '../../shared/states'
import { type List, useEdits } from '../edits'
import { PartRatings } from './PartRatings'

/** Every part of the rig: which of the workshop's own it is, what it is rated for; more can be added. */
export function PartList({ rig, wiring, open, onOpen }: { rig: Rig; wiring: List; open: string; onOpen: (name: string) => void }) {
  const { data: library } = useLibrary()
  const fit = useChange(rig.slug, ({ name, own }: { name: string; own: number | null }) =>
    need(
      api.PUT('/api/v1/rigs/{slug}/wiring/parts/{name}', {
        params: { path: { slug: rig.slug, name } },
        body: { revision: rig.revision, own },
      }),
    ),
  )
  const own = library?.own ?? []
  const pressed = useRef<HTMLLIElement>(null)
  useEffect(() => {
    pressed.current?.scrollIntoView({ block: 'nearest' })
  }, [open])
  return (
    <section style={{ marginTop: 18 }} aria-label="Parts">
      <div className="between">
        <h2>Parts</h2>
        <Link to="/library">Your own parts and their terminal numbers</Link>
      </div>
      <ul className="part-list">
        {wiring.parts.map((p) => {
          const fitting = own.filter((o) => o.kind === p.kind)
          return (
            <li key={p.name} ref={open === p.name ? pressed : undefined}>
              <button className="part-row" aria-expanded={open === p.name} onClick={() => onOpen(open === p.name ? '' : p.name)}>
                <b className="num">{p.name}</b>
                <span>{p.own || p.title}</span>
                <span>
                  <Said>{p.rating}</Said>
                </span>
                <span className="num small">
                  {Object.entries(p.numbers)
                    .map(([t, n]) => `${t}→${n}`)
                    .join(', ')}
                </span>
              </button>
              {fitting.length > 0 && (
                <SelectField
                  bare
                  label={`${p.name} is`}
                  value={String(fitting.find((o) => o.title === p.own)?.id ?? '')}
                  options={[['', 'generic'], ...fitting.map((o) => [String(o.id), o.title] as const)]}
                  onChange={(id) => fit.mutate({ name: p.name, own: id ? Number(id) : null })}
                />
              )}
              {open === p.name && <PartRatings key={JSON.stringify(p.ratings)} rig={rig} part={p} />}
            </li>
          )
        })}
      </ul>
      <Refused error={fit.error} />
      <AddPart rig={rig} />
    </section>
  )
}

function AddPart({ rig }: { rig: Rig }) {
  const { data: library } = useLibrary()
  const { addPart } = useEdits(rig)
  const [kind, setKind] = useState('lamp')
  const [name, setName] = useState('')
  return (
    <div className="add-part">
      <SelectField
        label="Kind of one more part"
        value={kind}
        options={(library?.kinds ?? []).map((k) => [k.kind, k.title] as const)}
        onChange={setKind}
        problem={problemOf(addPart.error, 'kind')}
      />
      <TextField
        label="Name (empty: next free)"
        value={name}
        onChange={setName}
        hint={library?.name_rule}
        problem={problemOf(addPart.error, 'name')}
      />
      <button
        className="button"
        disabled={addPart.isPending}
        onClick={() => addPart.mutate({ kind, name }, { onSuccess: () => setName((now) => (now === name ? '' : now)) })}
      >
        Add it
      </button>
    </div>
  )
}
