import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need, type Rig, type Schemas } from '../../api/client'
import { wordsOf } from '../../shared/effect'
import { Said } from '../../shared/Said'
import { Failure, Loading } from '../../shared/states'
import type { List } from '../edits'

type Outcome = Schemas['Outcome']

const groups = ({ does, effect }: ReturnType<typeof wordsOf>): [Outcome['verdict'], string, string][] => [
  ['uncalled', `With nothing broken it ${does} uncalled`, 'danger'],
  ['unlimited', 'With nothing broken the limiter does not stop it', 'danger'],
  ['uncovered', `Nothing stops the ${effect}`, 'danger'],
  ['stronger', `It gets more than it is made for, or ${does} uncalled`, 'danger'],
  ['latent', 'Unnoticed, and a protection is lost', 'fault'],
  ['covered', 'The limiter stops it', 'fine'],
  ['trips', 'A protective device opens', 'fine'],
  ['warm', `It ${does} on, but never too far`, 'advice'],
  ['weaker', `It ${does} less`, 'advice'],
  ['stops', `It no longer ${does}`, 'fine'],
  ['nothing', `No difference ${effect} would show`, 'fine'],
]

/** Failures of one part that come to the same stand together: “B2 slips out · is reversed · is open”. */
function alike(outcomes: Outcome[]) {
  const found = new Map<string, { first: Outcome; titles: string[] }>()
  for (const o of outcomes) {
    const key = JSON.stringify([o.subject, o.says, o.off_w, o.tripped_w])
    const known = found.get(key)
    if (known) known.titles.push(o.title.replace(`${o.subject} `, ''))
    else found.set(key, { first: o, titles: [o.title] })
  }
  return [...found.values()]
}

/** Every credible single failure, by what is left to stop it. */
export function FaultList({ rig, wiring, onSubject }: { rig: Rig; wiring: List; onSubject: (subject: string) => void }) {
  const { data, error } = useQuery({
    queryKey: ['of', rig.slug, 'faults', rig.revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/wiring/faults', { params: { path: { slug: rig.slug } } })),
  })
  const [open, setOpen] = useState<string[]>(['uncalled', 'unlimited', 'uncovered', 'stronger', 'latent', 'covered'])
  if (error && !data) return <Failure error={error} />
  if (!data) return <Loading />
  const ends = new Map(wiring.wires.map((w) => [`wire ${w.number}`, `${w.a} – ${w.b}`]))
  const words = wordsOf(rig.purpose.effect, !!rig.purpose.fire)
  const most = Math.max(...data.outcomes.map((o) => Math.max(o.off_w, o.on_w, o.tripped_w)), 1)
  return (
    <>
      <p className="fault-summary">
        <Said>{data.summary}</Said>
      </p>
      {groups(words).map(([verdict, title, tone]) => {
        const these = data.outcomes.filter((o) => o.verdict === verdict)
        if (!these.length) return null
        const shown = open.includes(verdict)
        return (
          <section key={verdict} className="fault-group">
            <h2>
              <button aria-expanded={shown} onClick={() => setOpen((o) => (shown ? o.filter((v) => v !== verdict) : [...o, verdict]))}>
                <span className={`badge ${tone}`}>{these.length}</span> {title}
              </button>
            </h2>
            {shown && (
              <ul>
                {alike(these).map(({ first: o, titles }) => (
                  <li key={o.title}>
                    <button className="title" onClick={() => onSubject(o.subject)}>
                      <Said>{titles.join(' · ')}</Said>
                      {ends.has(o.subject) && <span className="ends num">{ends.get(o.subject)}</span>}
                    </button>
                    <span>
                      <Said>{o.says}</Said>
                    </span>
                    <span
                      className="heat"
                      aria-label={`${words.noun} ${Math.round(o.off_w)} W with the output off, ${Math.round(o.tripped_w)} W with the limiter tripped`}
                    >
                      <i title="output off" style={{ width: `${(100 * o.off_w) / most}%` }} />
                      <i title="limiter tripped" style={{ width: `${(100 * o.tripped_w) / most}%` }} />
                    </span>
                  </li>
                ))}
              </ul>
            )}
          </section>
        )
      })}
      <p className="dim small">
        The two bars: {words.noun} power with the output off, and with the limiter tripped while the output is on. Single failures only, and
        a second one after each unnoticed one.
      </p>
    </>
  )
}
