import { Link } from 'react-router'
import { Refusal } from '../api/client'
import { usePreferences } from '../shell/preferences'
import { localise } from '../units/quantity'

export function Loading() {
  return (
    <div className="page dim" role="status">
      Fetching…
    </div>
  )
}

export function Lost() {
  return (
    <main className="page" id="work">
      <div className="empty">
        <h1>There is nothing at this address</h1>
        <Link className="button main" to="/">
          To the workshop
        </Link>
      </div>
    </main>
  )
}

/** A whole page that could not be fetched. */
export function Failure({ error }: { error: unknown }) {
  const offline = error instanceof Refusal && error.status === 0
  return (
    <main className="page" id="work">
      <div className="empty" role="alert">
        <h1>{offline ? 'Rellux does not answer' : 'This cannot be shown'}</h1>
        <p>{offline ? 'Recording goes on if the recorder runs. Start Rellux again, or wait: this page tries by itself.' : String(error instanceof Error ? error.message : error)}</p>
        <Link className="button" to="/">
          To the workshop
        </Link>
      </div>
    </main>
  )
}

/** What was refused: field, reason, range. */
export function Refused({ error }: { error: unknown }) {
  const { unit } = usePreferences()
  if (!error) return null
  const problems = error instanceof Refusal ? error.problems : []
  return (
    <div className="notice bad" role="alert">
      <b>{error instanceof Error ? error.message : 'That did not work.'}</b>
      {problems.length > 0 && (
        <ul>
          {problems.map((p) => (
            <li key={p.field + p.reason}>
              <b>{fieldName(p.field)}</b>: {localise(p.reason, unit)}.
              {p.accepted && <span className="dim"> Accepted: {localise(p.accepted, unit)}.</span>}
            </li>
          ))}
        </ul>
      )}
    </div>
  )
}

/** Another window changed the rig while something was being typed here. */
export function Overtaken() {
  return (
    <p className="notice" role="status">
      This rig was changed in another window since you began here. What you typed is kept; saving will be refused once, so that you can look first.
    </p>
  )
}

/** ``highest_c`` → ``Highest``: the label's words, without the unit of the interface underneath. */
export const fieldName = (field: string) => {
  const words = field.replace(/_(c|w|v|s|a|mm2)$/, '').replace(/^columns\./, 'column ').replaceAll('_', ' ')
  return words.charAt(0).toUpperCase() + words.slice(1)
}

/** The problem with one field, if any. */
export const problemOf = (error: unknown, field: string) =>
  error instanceof Refusal ? error.problems.find((p) => p.field === field) : undefined
