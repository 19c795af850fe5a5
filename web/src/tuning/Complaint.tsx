import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { SelectField } from '../shared/fields'
import { Said } from '../shared/Said'
import { Refused } from '../shared/states'

type Runs = { id: number; name: string }[]

/** A run that did not go well: what it shows, and which one of the things that can be put right would mend it. */
export function Complaint({ rig, runs }: { rig: Rig; runs: Runs }) {
  const [run, setRun] = useState(runs[0]?.id ?? 0)
  const asked = useMutation({
    mutationFn: () => need(api.POST('/api/v1/rigs/{slug}/tuning/diagnose', { params: { path: { slug: rig.slug } }, body: { run } })),
  })
  const accept = useChange(rig.slug, (by_hand: Schemas['HandNumbersRequest']) =>
    need(
      api.POST('/api/v1/rigs/{slug}/tuning/accept', {
        params: { path: { slug: rig.slug } },
        body: { revision: rig.revision, candidate: 'by_hand', by_hand },
      }),
    ),
  )
  const told = asked.data
  return (
    <details className="fold-out">
      <summary>
        <h2>A run that did not go well</h2>
        <span className="dim"> what it shows, and what would mend it</span>
      </summary>
      <div className="row">
        <SelectField
          label="Run"
          value={String(run)}
          options={runs.map((r) => [String(r.id), r.name])}
          onChange={(value) => (setRun(Number(value)), asked.reset(), accept.reset())}
        />
        <button type="button" className="button" disabled={asked.isPending} onClick={() => asked.mutate()}>
          {asked.isPending ? 'Simulating the causes…' : 'What is wrong with it?'}
        </button>
      </div>
      <Refused error={asked.error} />
      {told && (
        <div role="status">
          {told.complaints.map((line) => (
            <p key={line}>
              <Said>{line}</Said>
            </p>
          ))}
          <p>
            <b>
              <Said>{told.says}</Said>
            </b>
          </p>
          {!told.is_current && told.causes.length > 0 && (
            <p className="dim">The sheet has other numbers by now: what is said is of those the run had.</p>
          )}
          <ol className="causes">
            {told.causes.map((c) => (
              <li key={c.cause}>
                <span className="share" style={{ width: `${Math.round(c.share * 100)}%` }} aria-hidden />
                <Said>{c.name}</Said> <span className="dim">accounts for {Math.round(c.share * 100)} % of it</span>
                <br />
                <Said>{c.change}</Said>{' '}
                {c.numbers ? (
                  <button type="button" className="button quiet" disabled={accept.isPending} onClick={() => accept.mutate(c.numbers!)}>
                    Into the sheet
                  </button>
                ) : (
                  (c.cause === 'period' || c.cause === 'output_limit') && <Link to={`/rigs/${rig.slug}/setup`}>Change it in Set-up</Link>
                )}
              </li>
            ))}
          </ol>
        </div>
      )}
      <Refused error={accept.error} />
      {accept.isSuccess && <p role="status">It is in the sheet. Record the next run: one change at a time tells what it brought.</p>}
    </details>
  )
}
