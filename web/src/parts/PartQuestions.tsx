import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { api, need, type Rig } from '../api/client'
import { TOPICS, useQuestions } from '../questions/data'
import { usePreferences } from '../shell/preferences'
import { said } from '../units/message'

/** What this rig keeps answers to, and what else can be asked about the piece pressed, or about all of it. */
export function PartQuestions({ rig, piece }: { rig: Rig; piece: string }) {
  const { unit } = usePreferences()
  const questions = useQuestions(rig.slug, rig.revision)
  const kept = useQuery({
    queryKey: ['of', rig.slug, 'kept', rig.revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/questions', { params: { path: { slug: rig.slug } } })),
  })
  const keeps = new Set(kept.data?.map((k) => k.key))
  const open = (questions.data ?? []).filter((q) => !keeps.has(q.key) && (piece ? q.pieces.includes(piece) : q.pieces.length === 0))
  return (
    <section className="part-questions" aria-label={piece ? 'Questions about it' : 'Questions about these parts'}>
      {!!kept.data?.length && (
        <ul aria-label="Kept answers">
          {kept.data.map((k) => (
            <li key={k.key}>
              {k.worst ? <span className={`badge ${k.worst}`}>{k.worst}</span> : <span className="badge fine">fine</span>}
              <Link to={`/rigs/${rig.slug}/parts/${k.key}`}>{k.title}</Link>
              <span>{said(k.headline, unit)}</span>
            </li>
          ))}
        </ul>
      )}
      <div className="ask-next">
        {TOPICS.map(([topic, name]) => {
          const these = open.filter((q) => q.topic === topic)
          return (
            these.length > 0 && (
              <p key={topic}>
                <b>{name}</b>
                {these.map((q) => (
                  <Link key={q.key} to={`/rigs/${rig.slug}/parts/${q.key}`}>
                    {q.title}
                  </Link>
                ))}
              </p>
            )
          )
        })}
      </div>
    </section>
  )
}
