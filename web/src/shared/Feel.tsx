import type { Live } from '../api/client'
import './feel.css'

const SAYS: Record<string, [string, string]> = {
  cool: ['○', 'cool to touch'],
  warm: ['◐', 'warm to touch'],
  hot: ['●', 'hot to touch'],
  heated: ['●', 'heated lately: take it for hot'],
  unknown: ['●', 'not read: take it for hot'],
}

/** What the rig's status light says, where its plan has one: told apart by shape and word as well as by colour. */
export function Feel({ live }: { live: Live }) {
  const says = SAYS[live.feel]
  if (!says) return null
  return (
    <span className={`feel ${live.feel}`}>
      <i aria-hidden>{says[0]}</i> {says[1]}
    </span>
  )
}
