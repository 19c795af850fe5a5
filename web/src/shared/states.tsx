import { useEffect, useState } from 'react'
import { Link } from 'react-router'
import { type Problem, Refusal } from '../api/client'
import { usePreferences } from '../shell/preferences'
import { useWords } from '../units/fields'
import { said } from '../units/message'

/** After so long somebody wants to know why, ms. */
const LONG_MS = 2500

export function Loading() {
  const [long, setLong] = useState(false)
  useEffect(() => {
    const timer = setTimeout(() => setLong(true), LONG_MS)
    return () => clearTimeout(timer)
  }, [])
  return (
    <div className="page dim" role="status">
      Fetching…{long && ' It takes long: after an update all that is said of a rig is worked out anew, up to a quarter of a minute.'}
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

/** What could not be fetched, and the way on. */
export function Failure({ error, onRetry }: { error: unknown; onRetry?: () => void }) {
  const offline = error instanceof Refusal && error.status === 0
  return (
    <div className="page">
      <div className="empty" role="alert">
        <h2>{offline ? 'Rellux does not answer' : 'This cannot be shown'}</h2>
        <p>
          {offline
            ? 'Recording goes on if the recorder runs. Start Rellux again, or wait: this page tries by itself.'
            : String(error instanceof Error ? error.message : error)}
        </p>
        <div className="row">
          {onRetry && (
            <button className="button main" onClick={onRetry}>
              Try again
            </button>
          )}
          <Link className="button" to="/">
            To the workshop
          </Link>
        </div>
      </div>
    </div>
  )
}

/** What was refused: field, reason, range. */
export function Refused({ error }: { error: unknown }) {
  const { unit } = usePreferences()
  const { label } = useWords()
  if (!error) return null
  const problems = error instanceof Refusal ? error.problems : []
  return (
    <div className="notice bad" role="alert">
      <b>{error instanceof Error ? error.message : 'That did not work.'}</b>
      {problems.length > 0 && (
        <ul>
          {problems.map((p) => (
            <li key={p.field + p.reason}>
              <b>{label(p.field)}</b>: {said(p.reason, unit)}.
              {p.accepted && <span className="dim"> Accepted: {said(p.accepted, unit)}.</span>}
            </li>
          ))}
        </ul>
      )}
    </div>
  )
}

/** What is wrong with one field, beside it: reason and range. */
export function Wrong({ problem, id }: { problem: Problem; id?: string }) {
  const { unit } = usePreferences()
  return (
    <span className="wrong" id={id}>
      {said(problem.reason, unit)}. {problem.accepted && `Accepted: ${said(problem.accepted, unit)}.`}
    </span>
  )
}

/** The problem with one field, if any. */
export const problemOf = (error: unknown, field: string) =>
  error instanceof Refusal ? error.problems.find((p) => p.field === field) : undefined
