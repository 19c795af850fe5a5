import { useQuery } from '@tanstack/react-query'
import { api, need, type Rig, type Schemas } from '../../api/client'
import type { List } from '../edits'

export type Position = Required<Schemas['OwnPositionRequest']>
export const OWN = 'your own position'
export const AT_REST: Position = { output_on: true, limit_tripped: false, alarm_on: false, operated: [], power: true }

/** What is on and live in a position put together by hand. */
export const usePosition = (rig: Rig, position: Position, asked: boolean) =>
  useQuery({
    queryKey: ['of', rig.slug, 'position', rig.revision, position],
    queryFn: () => need(api.POST('/api/v1/rigs/{slug}/wiring/position', { params: { path: { slug: rig.slug } }, body: position })),
    enabled: asked,
    placeholderData: (before) => before,
  })

interface Props {
  wiring: List
  position: Position
  onChange: (position: Position) => void
}

/** Everything that can be put one way or the other: output, limiter, alarm, the supply, and whatever a hand operates. */
export function OwnPosition({ wiring, position, onChange }: Props) {
  const plain: [keyof Position & ('output_on' | 'limit_tripped' | 'alarm_on' | 'power'), string][] = [
    ['output_on', 'output on'],
    ['limit_tripped', 'limit tripped'],
    ['alarm_on', 'alarm on'],
    ['power', 'supply there'],
  ]
  const turn = (name: string) =>
    position.operated.includes(name) ? position.operated.filter((n) => n !== name) : [...position.operated, name]
  return (
    <div className="own-position" role="group" aria-label="Your own position">
      {plain.map(([key, words]) => (
        <label key={key} className="tick">
          <input type="checkbox" checked={position[key]} onChange={(e) => onChange({ ...position, [key]: e.target.checked })} /> {words}
        </label>
      ))}
      {wiring.parts
        .filter((p) => p.operated)
        .map((p) => (
          <label key={p.name} className="tick">
            <input
              type="checkbox"
              checked={position.operated.includes(p.name)}
              onChange={() => onChange({ ...position, operated: turn(p.name) })}
            />{' '}
            {p.name} {p.operated}
          </label>
        ))}
    </div>
  )
}
