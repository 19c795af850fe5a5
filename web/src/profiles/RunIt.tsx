import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { GOING } from './data'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { arm as armLink, armedHere, THIS_WINDOW } from '../api/thisWindow'
import { useLive } from '../api/live'
import '../shared/going.css'
import { Said } from '../shared/Said'
import { Refused } from '../shared/states'
import { Temperature } from '../shared/Temperature'
import { usePreferences } from '../shell/preferences'
import { say } from '../units/quantity'

type Now = NonNullable<Schemas['ProgrammeView']['now']>

/** A profile run by Rellux over the link: what happens if it stops is said first; then it is started, paused, skipped, ended. */
export function RunIt({ rig, data }: { rig: Rig; data: Schemas['ProfileView'] }) {
  const live = useLive(rig.slug)
  const params = { path: { slug: rig.slug } }
  const query = useQuery({
    queryKey: ['of', rig.slug, 'programme', data.key, data.number],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/programme', { params: { ...params, query: { key: data.key, number: data.number } } })),
    refetchInterval: 1500,
  })
  const [alone, setAlone] = useState(false)
  const [read, setRead] = useState(false)
  const start = useChange(rig.slug, () =>
    need(
      api.POST('/api/v1/rigs/{slug}/programme', {
        params,
        body: { key: data.key, number: data.number, window: THIS_WINDOW, attended: !alone },
      }),
    ),
  )
  const arm = useChange(rig.slug, () => need(armLink(rig.slug, true)))
  const { now, before } = query.data ?? {}
  if (!before) return <p className="wait">Looking at the link…</p>
  if (now && GOING.includes(now.standing)) return <Going rig={rig} now={now} live={live} />
  const armed = armedHere(live)
  const cannot = [...before.cannot, ...(alone ? before.alone_cannot : [])]
  return (
    <div className="stack">
      {now && (
        <p>
          The last one, {now.name}, {now.standing === 'ended' ? 'came to its end' : 'was broken off'}
          {now.says && (
            <>
              : <Said>{now.says}</Said>
            </>
          )}
          .
        </p>
      )}
      {before.if_stopped.length > 0 && (
        <section aria-label="If Rellux stops">
          <h2>If Rellux, this computer or the link stops</h2>
          <ul className="losses">
            {before.if_stopped.map((s) => (
              <li key={s}>
                <Said>{s}</Said>
              </li>
            ))}
          </ul>
          <p>
            <Said>{[before.memory, ...before.notes].join(' ')}</Said>
          </p>
        </section>
      )}
      <div className="row ticks">
        <label className="tick">
          <input type="checkbox" checked={alone} onChange={(e) => setAlone(e.target.checked)} /> Nobody stays with it
        </label>
        <label className="tick">
          <input type="checkbox" checked={read} onChange={(e) => setRead(e.target.checked)} /> I have read what happens if it stops, and the
          load is in
        </label>
      </div>
      {cannot.length > 0 && (
        <ul className="losses cannot" aria-label="Why it cannot start">
          {cannot.map((c) => (
            <li key={c}>
              <Said>{c}</Said>
            </li>
          ))}
        </ul>
      )}
      <Refused error={start.error ?? arm.error} />
      <div className="row">
        {!armed && (
          <button className="button" disabled={before.cannot.length > 0 || arm.isPending} onClick={() => arm.mutate(undefined)}>
            Arm writing for 10 minutes
          </button>
        )}
        <button
          className="button main"
          disabled={!armed || !read || cannot.length > 0 || start.isPending}
          onClick={() => start.mutate(undefined)}
        >
          {start.isPending ? 'Starting…' : `Start ${data.name}, version ${data.number}`}
        </button>
        {!rig.live.status || live?.status === 'none' ? <Link to={`/rigs/${rig.slug}/runs`}>Link a controller</Link> : null}
      </div>
    </div>
  )
}

const WORDS: Record<string, string> = { running: 'running', back: 'coming back after an absence', paused: 'paused' }

function Going({ rig, now, live }: { rig: Rig; now: Now; live: Schemas['Live'] | null }) {
  const { unit } = usePreferences()
  const params = { path: { slug: rig.slug } }
  const ask = useChange(rig.slug, (what: Schemas['ProgrammeAskedRequest']['ask']) =>
    need(api.POST('/api/v1/rigs/{slug}/programme/ask', { params, body: { ask: what } })),
  )
  return (
    <div className="stack going" role="status">
      <p className="going-big">
        <b>{now.name}</b>: segment {now.segment + 1} of {now.segments}, {now.waits ? 'waiting for somebody' : WORDS[now.standing]}
        {now.says && (
          <>
            {' '}
            (<Said>{now.says}</Said>)
          </>
        )}
      </p>
      <p className="going-figures">
        <span>
          reading <Temperature celsius={live?.reading_c ?? null} tinted />
        </span>
        <span>
          set <Temperature celsius={now.setpoint_c} />
        </span>
        <span>
          left <b>{say(now.expected_s ?? now.left_s, 'time', unit)}</b>
        </span>
        <span>
          late by <b>{say(now.held_s, 'time', unit)}</b>
        </span>
      </p>
      <p className="dim">
        Next: {now.next_says}. As asked it would take {say(now.left_s, 'time', unit)} yet. {now.writes} set-points written; begun by{' '}
        {now.who}, {now.attended ? 'who stays with it' : 'unattended'}.
      </p>
      <div className="row">
        {now.standing === 'paused' || now.waits ? (
          <button className="button main" disabled={ask.isPending} onClick={() => ask.mutate('go_on')}>
            Go on
          </button>
        ) : (
          <button className="button" disabled={ask.isPending} onClick={() => ask.mutate('pause')}>
            Hold here
          </button>
        )}
        <button className="button" disabled={ask.isPending} onClick={() => ask.mutate('skip')}>
          Skip this segment
        </button>
        <button className="button" disabled={ask.isPending} onClick={() => ask.mutate('abort')}>
          End it, heat off
        </button>
      </div>
      <Refused error={ask.error} />
    </div>
  )
}
