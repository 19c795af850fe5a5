import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { api, need, upload, type Rig, type Schemas } from '../api/client'
import { useWorkshop } from '../api/hooks'
import { asOf, useNow } from '../api/live'
import { Calling } from '../shared/AlarmsNow'
import { Feel } from '../shared/Feel'
import { Said } from '../shared/Said'
import { Failure, Loading, Refused } from '../shared/states'
import { Temperature } from '../shared/Temperature'
import { day } from '../shared/when'
import { usePreferences } from '../shell/preferences'
import { said } from '../units/message'
import { STATION_NAME } from '../shell/stations'
import { Removed } from './Removed'
import { Ribbon } from './Ribbon'

const STATE: Record<string, string> = { off: 'off', on_off: 'holding, on/off', pid: 'holding, PID' }

/** One strip per rig, those that need attention first. */
export function Workshop() {
  const { data, error, dataUpdatedAt } = useWorkshop()
  const now = useNow(1000)
  if (error && !data) return <Failure error={error} />
  if (!data) return <Loading />
  const current = data.filter((r) => !r.archived)
  const archived = data.filter((r) => r.archived)
  const shown = (r: Schemas['RigStrip']) =>
    r.unreadable ? <Unreadable key={r.slug} rig={r} /> : <Strip key={r.slug} rig={{ ...r, live: asOf(r.live, dataUpdatedAt, now) }} />
  return (
    <main className="page" id="work" tabIndex={-1}>
      <Removed />
      <h1>{data.length ? 'What needs attention' : 'Workshop'}</h1>
      {data.length ? (
        <div className="strips">
          {current.map(shown)}
          {archived.length > 0 && (
            <details className="archived">
              <summary>
                {archived.length} archived {archived.length === 1 ? 'rig' : 'rigs'}
              </summary>
              {archived.map(shown)}
            </details>
          )}
        </div>
      ) : (
        <div className="empty" style={{ margin: '14px 0' }}>
          <p>
            No rig yet. Describe the oven, kiln, plate or tank you are working on, and everything else follows from it: parts, wiring,
            settings, tuning.
          </p>
        </div>
      )}
      <Actions />
    </main>
  )
}

/** A rig that cannot be read: what can still be done with it. */
function Unreadable({ rig }: { rig: Schemas['RigStrip'] }) {
  const queries = useQueryClient()
  const navigate = useNavigate()
  const remove = useMutation({
    mutationFn: () => need(api.DELETE('/api/v1/rigs/{slug}', { params: { path: { slug: rig.slug }, query: { revision: rig.revision } } })),
    onSuccess: (removed) => void navigate('/', { state: { ...removed, name: rig.name } }),
    onSettled: () => queries.invalidateQueries({ queryKey: ['workshop'] }),
  })
  const params = { path: { slug: rig.slug } }
  const wouldLeave = useQuery({
    queryKey: ['repair', rig.slug],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/repair', { params })),
    enabled: false,
    retry: false,
  })
  const repair = useMutation({
    mutationFn: () => need(api.POST('/api/v1/rigs/{slug}/repair', { params })),
    onSettled: () => queries.invalidateQueries({ queryKey: ['workshop'] }),
  })
  return (
    <section className="strip" aria-label={rig.name}>
      <div>
        <span className="name">{rig.name}</span>
        <p className="dim">could not be read</p>
      </div>
      <p className="small dim">{rig.unreadable}</p>
      <div className="stack" style={{ justifyItems: 'start', gap: 8 }}>
        <p>
          <Said>{rig.next.text}</Said>
        </p>
        <a className="button" href={`/api/v1/rigs/${rig.slug}/export`}>
          Export it
        </a>
        {wouldLeave.data ? (
          <div>
            <p>Repairing it leaves out, with a copy of the whole kept:</p>
            <ul>
              {wouldLeave.data.left_out.map((what) => (
                <li key={what}>{what}</li>
              ))}
              {!wouldLeave.data.left_out.length && <li>nothing</li>}
            </ul>
            <button className="button main" disabled={repair.isPending} onClick={() => repair.mutate()}>
              Repair it so
            </button>
          </div>
        ) : (
          <button className="button" disabled={wouldLeave.isFetching} onClick={() => void wouldLeave.refetch()}>
            {wouldLeave.isFetching ? 'Looking…' : 'Repair it…'}
          </button>
        )}
        <button className="button" disabled={remove.isPending} onClick={() => remove.mutate()}>
          Remove, keeping a copy
        </button>
        <Refused error={remove.error ?? repair.error ?? wouldLeave.error} />
      </div>
    </section>
  )
}

function Strip({ rig }: { rig: Schemas['RigStrip'] }) {
  const { unit } = usePreferences()
  const { live, next } = rig
  const state = live.recording
    ? 'recording'
    : live.status === 'online'
      ? rig.effect === 'watches'
        ? 'watched'
        : (STATE[live.mode ?? 'off'] ?? live.mode)
      : live.status === 'offline'
        ? `no answer${live.message && `: ${said(live.message, unit)}`}`
        : 'not linked'
  return (
    <section className="strip" aria-label={rig.name}>
      <div>
        <Link className="name" to={`/rigs/${rig.slug}`}>
          {rig.name}
        </Link>
        <div className="reading">
          <Temperature celsius={live.status === 'online' ? live.reading_c : null} tinted />
        </div>
        <span className="dim">{state}</span>
        <Feel live={live} />
      </div>
      <Ribbon runs={rig.ribbon} highest={rig.highest_c} />
      <div className="stack" style={{ justifyItems: 'start', gap: 8 }}>
        <Calling live={live} />
        {next.severity && <span className={`badge ${next.severity}`}>{next.severity}</span>}
        <p>{said(next.text, unit)}</p>
        <Link className="button" to={`/rigs/${rig.slug}/${next.station}`}>
          {STATION_NAME[next.station]}
        </Link>
        {rig.compare_again && (
          <span className="small dim">
            Compare the display by{' '}
            <a href="/api/v1/calibration.ics" aria-label={`${day(rig.compare_again)}, into a calendar`}>
              {day(rig.compare_again)}
            </a>
          </span>
        )}
        {rig.prove_again && (
          <span className="small dim">
            Proved; again by{' '}
            <a href="/api/v1/proving.ics" aria-label={`${day(rig.prove_again)}, into a calendar`}>
              {day(rig.prove_again)}
            </a>
          </span>
        )}
      </div>
    </section>
  )
}

function Actions() {
  const navigate = useNavigate()
  const picker = useRef<HTMLInputElement>(null)
  const [share, setShare] = useState<number | null>(null)
  const [error, setError] = useState<unknown>(null)

  async function bringIn(file: File) {
    setError(null)
    setShare(0)
    try {
      const rig = await upload<Rig>('/api/v1/rigs/import', file, setShare, new AbortController().signal)
      void navigate(`/rigs/${rig.slug}/book`)
    } catch (refused) {
      setError(refused)
    } finally {
      setShare(null)
    }
  }

  return (
    <div className="stack" style={{ marginTop: 16, maxWidth: 720 }}>
      <div className="row">
        <Link className="button main" to="/new">
          New rig
        </Link>
        <Link className="button" to="/zones">
          Zones of a chamber
        </Link>
        <Link className="button" to="/wall">
          Wall screen
        </Link>
        <Link className="button" to="/questions">
          Bench questions
        </Link>
        <Link className="button" to="/equipment">
          Equipment
        </Link>
        <Link className="button" to="/library">
          Parts library
        </Link>
        <Link className="button" to="/controllers">
          Controllers and their menus
        </Link>
        <Link className="button" to="/maps">
          Register maps
        </Link>
        <button className="button" onClick={() => picker.current?.click()}>
          Import a rig file
        </button>
        <input
          ref={picker}
          type="file"
          accept=".zip"
          className="visually-hidden"
          aria-label="Rig file"
          tabIndex={-1}
          onChange={(e) => {
            const file = e.target.files?.[0]
            e.target.value = ''
            if (file) void bringIn(file)
          }}
        />
      </div>
      {share !== null && <progress value={share} aria-label="Uploading" />}
      <Refused error={error} />
    </div>
  )
}
