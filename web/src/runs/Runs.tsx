import { useQueryClient } from '@tanstack/react-query'
import { lazy, Suspense, useState } from 'react'
import { Link, useOutletContext, useParams } from 'react-router'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { useLive } from '../api/live'
import { Undo } from '../shared/Undo'
import { Fetched } from '../shared/Fetched'
import { wordsOf } from '../shared/effect'
import { Loading, Refused } from '../shared/states'
import { Temperature } from '../shared/Temperature'
import { when } from '../shared/when'
import { ReasonOfPlace } from '../shell/reason'
import { duration } from '../units/quantity'
import { Bench } from './Bench'
import { useRuns } from './data'
import './runs.css'

const RunPicture = lazy(() => import('./RunPicture'))

const STATUS: Record<string, string> = { recording: 'recording', finished: '', interrupted: 'broken off' }
const SOURCE: Record<string, string> = { live: 'recorded', csv: 'imported', simulated: 'simulated' }

/** What runs now, and what ran. */
export default function Runs() {
  const rig = useOutletContext<Rig>()
  const { run } = useParams()
  const live = useLive(rig.slug)
  const watches = rig.purpose.effect === 'watches'
  const query = useRuns(rig.slug, live ? (live.recording ? 3000 : 8000) : undefined)
  return (
    <>
      <h1>{live?.recording ? 'Recording' : 'What does it do?'}</h1>
      <Bench rig={rig} />
      <Fetched query={query}>{(runs) => <Ran rig={rig} runs={runs} run={run} />}</Fetched>
      <ReasonOfPlace>
        <h2>Reading a run</h2>
        {watches ? (
          <p>Where the line is lifted, nothing was recorded; nothing is drawn in.</p>
        ) : (
          <>
            <p>The strip below the reading is the output. Where the line is lifted, nothing was recorded; nothing is drawn in.</p>
            <div className="caution">
              <strong>Never leave the first runs alone.</strong> Empty the rig before tests that swing, and keep a hand on the switch.
            </div>
          </>
        )}
      </ReasonOfPlace>
    </>
  )
}

/** The run looked at, and the list of all. */
function Ran({ rig, runs, run }: { rig: Rig; runs: Schemas['RunView'][]; run?: string }) {
  const chosen = run ? runs.find((r) => r.id === Number(run)) : (runs.find((r) => r.status === 'recording') ?? runs[0])
  return (
    <>
      {chosen ? (
        <Suspense fallback={<Loading />}>
          <RunPicture key={chosen.id} rig={rig} run={chosen} />
        </Suspense>
      ) : (
        <div className="empty">
          <p>
            {run
              ? 'This run was removed, or never was.'
              : `No run yet. Link a controller and record ${rig.purpose.effect === 'watches' ? 'a run' : wordsOf(rig.purpose.effect).run}, or import a log you already have.`}
          </p>
        </div>
      )}
      <div className="between" style={{ marginTop: 18 }}>
        <h2>Runs</h2>
        <Link className="button" to={`/rigs/${rig.slug}/runs/import`}>
          Import a log
        </Link>
      </div>
      <RunList rig={rig} runs={runs} chosen={chosen?.id} />
    </>
  )
}

function RunList({ rig, runs, chosen }: { rig: Rig; runs: Schemas['RunView'][]; chosen?: number }) {
  const queries = useQueryClient()
  const [removed, setRemoved] = useState<Schemas['RunView'] | null>(null)
  const remove = useChange(rig.slug, (run: Schemas['RunView']) =>
    need(api.DELETE('/api/v1/rigs/{slug}/runs/{number}', { params: { path: { slug: rig.slug, number: run.id } } })),
  )
  const restore = async () => {
    await need(api.POST('/api/v1/rigs/{slug}/runs/{number}/restore', { params: { path: { slug: rig.slug, number: removed!.id } } }))
    await queries.invalidateQueries()
  }
  return (
    <>
      <table className="plain runlist">
        <thead>
          <tr>
            <th>Name</th>
            <th>When</th>
            <th className="right">Length</th>
            <th className="right">Peak</th>
            <th className="right">Samples</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {runs.map((r) => (
            <tr key={r.id} className={r.id === chosen ? 'chosen' : ''}>
              <td>
                <Link to={`/rigs/${rig.slug}/runs/${r.id}`}>{r.name}</Link>{' '}
                <span className="small dim">
                  {SOURCE[r.source]} {STATUS[r.status]}
                </span>
              </td>
              <td className="small">{when(r.started_at)}</td>
              <td className="right num">{Object.values(duration(r.length_s)).join(' ')}</td>
              <td className="right">
                <Temperature celsius={r.peak_c} tinted />
              </td>
              <td className="right num">{r.samples.toLocaleString('en-GB').replaceAll(',', ' ')}</td>
              <td className="right">
                <a className="button quiet" href={`/api/v1/rigs/${rig.slug}/runs/${r.id}/csv`} aria-label={`${r.name} as CSV`}>
                  CSV
                </a>
                <a className="button quiet" href={`/api/v1/rigs/${rig.slug}/runs/${r.id}/parquet`} aria-label={`${r.name} as Parquet`}>
                  Parquet
                </a>
                {r.status !== 'recording' && (
                  <button
                    className="button quiet"
                    aria-label={`Remove ${r.name}`}
                    onClick={() => remove.mutate(r, { onSuccess: () => setRemoved(r) })}
                  >
                    Remove
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Refused error={remove.error} />
      <Undo text={removed ? `${removed.name} removed` : null} onUndo={restore} onClose={() => setRemoved(null)} />
    </>
  )
}
