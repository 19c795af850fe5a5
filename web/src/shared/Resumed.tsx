import type { Draft } from '../api/kept'
import { moment } from './when'

/** What was typed here before and not saved: shown, and for the user to keep or to drop. */
export function Resumed<T>({ draft }: { draft: Draft<T> }) {
  if (draft.resumed === null) return null
  return (
    <div className="notice row" role="status">
      <span>Typed here at {moment(draft.resumed)} and not saved.</span>
      <button type="button" className="button" onClick={draft.goOn}>
        Go on with it
      </button>
      <button type="button" className="button quiet" onClick={draft.discard}>
        Discard it
      </button>
    </div>
  )
}
