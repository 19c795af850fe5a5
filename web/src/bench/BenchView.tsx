import { useEffect, useState } from 'react'
import { Link, useParams } from 'react-router'
import { api, need, type Rig } from '../api/client'
import { useChange, useRig } from '../api/hooks'
import { useLive } from '../api/live'
import { ProgrammeLine } from '../profiles/ProgrammeLine'
import { TestLine } from '../tuning/TestLine'
import { Channels } from '../runs/Channels'
import { NoteForm } from '../runs/NoteForm'
import { AlarmsNow } from '../shared/AlarmsNow'
import { Said } from '../shared/Said'
import { Segments } from '../shared/Segments'
import { Failure, Loading, Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { duration } from '../units/quantity'
import { Now } from './Now'
import { Trend } from './Trend'
import { useTrend } from './trend'
import './bench.css'

const SPANS: [string, string][] = [
  ['300', '5 min'],
  ['3600', '1 h'],
  ['28800', '8 h'],
]

/** One rig for the phone in hand or the screen across the room: what it is at, where it came from, and what can be done. */
export default function BenchView() {
  const { slug = '' } = useParams()
  const rig = useRig(slug)
  if (rig.error && !rig.data) return <Failure error={rig.error} />
  return rig.data ? <OfRig rig={rig.data} /> : <Loading />
}

function OfRig({ rig }: { rig: Rig }) {
  const live = useLive(rig.slug)
  const { letters } = usePreferences()
  const [span, setSpan] = useState('3600')
  const points = useTrend(rig.slug, live, Number(span))
  const slug = rig.slug
  const run = live?.recording ?? null
  const start = useChange(slug, () => need(api.POST('/api/v1/rigs/{slug}/runs', { params: { path: { slug } }, body: {} })))
  const stop = useChange(slug, (number: number) =>
    need(api.POST('/api/v1/rigs/{slug}/runs/{number}/stop', { params: { path: { slug, number } } })),
  )
  const note = useChange(slug, (said: string) =>
    need(api.POST('/api/v1/rigs/{slug}/runs/{number}/notes', { params: { path: { slug, number: run! } }, body: { text: said } })),
  )
  const mark = () => run != null && note.mutate('mark')
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const typing = e.target instanceof HTMLElement && /^(INPUT|TEXTAREA|SELECT)$/.test(e.target.tagName)
      if (!letters || typing || e.ctrlKey || e.metaKey || e.altKey || e.key !== 'm') return
      e.preventDefault()
      mark()
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  })
  if (!live) return <Loading />
  const online = live.status === 'online'
  return (
    <main className="page benchview" id="work" tabIndex={-1}>
      <div className="between">
        <h1>{rig.name}</h1>
        <Link className="button quiet" to={`/rigs/${slug}/runs`}>
          Runs
        </Link>
      </div>
      {live.status === 'none' ? (
        <p>
          Nothing is linked yet. <Link to={`/rigs/${slug}/runs`}>Link its controller</Link>
        </p>
      ) : (
        <>
          <Now slug={slug} live={live} />
          <AlarmsNow slug={slug} live={live} />
          {rig.choice && rig.purpose.effect !== 'watches' && <ProgrammeLine slug={slug} />}
          {rig.choice && rig.purpose.effect !== 'watches' && <TestLine slug={slug} />}
          <Channels rig={rig} />
          <Trend points={points} span={Number(span)} />
          <div className="between">
            <Segments label="Looked back" value={span} options={SPANS} onChange={setSpan} />
            <span className="dim">
              {run != null ? <>recording, {Object.values(duration(live.run_time_s ?? 0)).join(' ')}</> : 'not recording'}
            </span>
          </div>
          <div className="deeds">
            {run != null ? (
              <>
                <button className="button main" disabled={note.isPending} onClick={mark}>
                  Mark this moment
                </button>
                <button className="button" disabled={stop.isPending} onClick={() => stop.mutate(run)}>
                  Stop recording
                </button>
              </>
            ) : (
              <button className="button main" disabled={!online || start.isPending} onClick={() => start.mutate(undefined)}>
                Record a run
              </button>
            )}
          </div>
          {run != null && <NoteForm slug={slug} run={run} />}
          <p className="small dim" aria-live="polite">
            {note.isSuccess && 'Noted.'} {live.notice && <Said>{live.notice}</Said>}
          </p>
          <Refused error={start.error ?? stop.error ?? note.error} />
        </>
      )}
    </main>
  )
}
