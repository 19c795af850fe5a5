import { useQuery } from '@tanstack/react-query'
import { api, need, type Rig, type Schemas } from '../api/client'
import { Said } from '../shared/Said'
import { usePreferences } from '../shell/preferences'
import { said } from '../units/message'
import { quantity, round, say, type Unit } from '../units/quantity'

type Choice = Schemas['PartsInputRequest']
type Compared = Schemas['Compared']

interface Props {
  rig: Rig
  choice: Choice
  piece: string
  onTake: (choice: Choice) => void
}

/** What else could stand at the place pressed: each alternative filled as the chain would be, and taken with one press. */
export function Compare({ rig, choice, piece, onTake }: Props) {
  const { unit } = usePreferences()
  const { data } = useQuery({
    queryKey: ['of', rig.slug, 'parts', 'compare', rig.revision, piece, choice],
    queryFn: () =>
      need(api.POST('/api/v1/rigs/{slug}/parts/compare/{piece}', { params: { path: { slug: rig.slug, piece } }, body: choice })),
    placeholderData: (before) => before,
    retry: false,
  })
  if (!data?.length) return null
  return (
    <ul className="compare" aria-label="What else could stand here">
      {data.map((c) => (
        <li key={c.title} className={c.chosen ? 'chosen' : c.refused ? 'cannot' : c.over ? 'over' : ''}>
          <b>
            <Said>{c.title}</Said>
          </b>
          <span className="bar">
            <i style={{ width: `${Math.min(c.fill, 1) * 100}%` }} />
          </span>
          <span className="num">{filled(c, unit)}</span>
          <span className="says">
            {said(c.refused || c.says, unit)}
            {c.findings.map((f) => (
              <span key={f.rule}>
                {' '}
                <span className={`badge ${f.severity}`}>{f.severity}</span> {said(f.title, unit)}
              </span>
            ))}
          </span>
          {c.chosen ? (
            <small>this one</small>
          ) : (
            <button
              className="button"
              disabled={!!c.refused}
              aria-label={`Try ${said(c.title, unit)}`}
              onClick={() => onTake(c.choice as Choice)}
            >
              Try it
            </button>
          )}
        </li>
      ))}
    </ul>
  )
}

function filled(c: Compared, unit: Unit): string {
  if (!c.piece) return ''
  const { duty, rating } = c.piece
  return duty.kind === 'temperature'
    ? `${round(duty.value, unit).split(' ')[0]}/${round(rating, unit)}`
    : `${quantity(duty.value, duty.kind, unit).text}/${say(rating, duty.kind, unit)}`
}
