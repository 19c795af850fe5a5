import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useKept } from '../api/kept'
import { NumberField } from '../shared/fields'
import { Refused } from '../shared/states'
import { fixed, significant } from '../units/quantity'

type Clue = Schemas['ClueInputRequest']

/** Where a failed step comes from: with the plug out, each measurement halves what is left. */
export function Halves({ rig, step }: { rig: Rig; step: Schemas['ProvingStepView'] }) {
  const [clues, setClues] = useKept<Clue[]>(`halves ${rig.slug} ${step.key} ${step.record?.at ?? ''}`, [])
  const found = useQuery({
    queryKey: ['of', rig.slug, 'halves', step.key, step.record?.at, clues],
    queryFn: () =>
      need(api.POST('/api/v1/rigs/{slug}/proving/bisect', { params: { path: { slug: rig.slug } }, body: { key: step.key, clues } })),
    placeholderData: (before) => before,
    retry: false,
  })
  const next = found.data?.next
  return (
    <section className="halves stack" aria-label="Where it comes from">
      <h4>Where it comes from</h4>
      <Refused error={found.error} />
      {found.data &&
        (found.data.suspects.length ? (
          <p>
            {found.data.suspects.length === 1 ? 'What is left: ' : `${found.data.suspects.length} things explain it: `}
            <b>{found.data.suspects.map((s) => s.title).join('; ')}</b>.
          </p>
        ) : (
          <p>No single thing explains all of this: measure once more from the beginning, or two things are wrong at once.</p>
        ))}
      {next && (
        <Measure key={`${next.a} ${next.b}`} next={next} onMeasured={(ohms) => setClues([...clues, { a: next.a, b: next.b, ohms }])} />
      )}
      {found.data && !next && found.data.suspects.length > 1 && <p>No further ohms tell these apart: look at each.</p>}
      {clues.length > 0 && (
        <p className="small dim">
          {clues.map((c) => `${c.a} to ${c.b}: ${c.ohms === null ? 'no connection' : `${significant(c.ohms)} Ω`}`).join('; ')}{' '}
          <button type="button" className="button" onClick={() => setClues(clues.slice(0, -1))}>
            Take the last back
          </button>
        </p>
      )}
    </section>
  )
}

const spanned = (least: number, most: number) => [...new Set([least, most].map((v) => fixed(v, 1)))].join(' to ') + ' Ω'

function Measure({ next, onMeasured }: { next: Schemas['NextMeasure']; onMeasured: (ohms: number | null) => void }) {
  const [ohms, setOhms] = useState<number | null>(null)
  const sound = next.most === null ? 'no connection' : spanned(next.least ?? 0, next.most)
  return (
    <div className="stack">
      <p className="does">
        Plug out: ohms from <b>{next.a}</b> to <b>{next.b}</b>.
      </p>
      <p className="small dim">
        If all is sound between them: {sound}. Whatever it shows leaves at most {next.leaves}.
      </p>
      <div className="measured">
        <NumberField label="Ohms there" kind="resistance" value={ohms} onChange={(v) => setOhms(v)} />
        <button type="button" className="button" disabled={ohms === null} onClick={() => onMeasured(ohms)}>
          That is it
        </button>
        <button type="button" className="button" onClick={() => onMeasured(null)}>
          No connection
        </button>
      </div>
    </div>
  )
}
