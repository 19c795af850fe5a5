import { useState } from 'react'
import { Link } from 'react-router'
import { api, need, type Rig } from '../api/client'
import { useChange } from '../api/hooks'
import { useLive } from '../api/live'
import { Refused } from '../shared/states'
import { Said } from '../shared/Said'
import { Temperature } from '../shared/Temperature'
import { fixed } from '../units/quantity'
import { Channels } from './Channels'
import { useLink } from './data'
import { Devices } from './Devices'
import { LinkForm } from './LinkForm'
import { WriteControls } from './WriteControls'

const MODE: Record<string, string> = { off: 'output off', on_off: 'on/off', pid: 'PID' }

/** The controller right now, big enough for two metres, and the few things to do with it. */
export function Bench({ rig }: { rig: Rig }) {
  const live = useLive(rig.slug)
  const link = useLink(rig.slug)
  const [editing, setEditing] = useState(false)
  const start = useChange(rig.slug, () => need(api.POST('/api/v1/rigs/{slug}/runs', { params: { path: { slug: rig.slug } }, body: {} })))
  const stop = useChange(rig.slug, (run: number) =>
    need(api.POST('/api/v1/rigs/{slug}/runs/{number}/stop', { params: { path: { slug: rig.slug, number: run } } })),
  )
  if (link.isPending || !live) return <p className="wait">Looking for the controller…</p>
  if (!link.data || editing) return <LinkForm rig={rig} link={link.data ?? null} onDone={() => setEditing(false)} />
  const online = live.status === 'online'
  const watches = rig.purpose.effect === 'watches'
  return (
    <section aria-label="Controller now">
      <div className="bench">
        <div className="now">
          <div className="label">{online ? 'reading' : 'no answer'}</div>
          <Temperature celsius={online ? live.reading_c : null} tinted />
        </div>
        {watches && !online && (
          <div className="label">
            <Said>{live.message}</Said>
          </div>
        )}
        {!watches && (
          <>
            <div className="sp">
              <div className="label">set-point</div>
              <Temperature celsius={online ? live.setpoint_c : null} />
            </div>
            <div>
              <div className="label">
                output <span className="num">{online && live.output != null ? `${fixed(live.output, 0)} %` : '–'}</span>
                {!online && (
                  <>
                    , <Said>{live.message}</Said>
                  </>
                )}
                {online && live.mode && `, ${MODE[live.mode]}`}
                {online && live.switch != null && (live.switch ? ', switch closed' : ', switch open')}
              </div>
              <div
                className="outbar"
                role="meter"
                aria-label="Output"
                aria-valuenow={Math.round(live.output ?? 0)}
                aria-valuemin={0}
                aria-valuemax={100}
              >
                <i style={{ width: `${online ? live.output : 0}%` }} />
              </div>
            </div>
          </>
        )}
      </div>
      <Channels rig={rig} />
      <div className="controls">
        {live.recording ? (
          <button className="button main" disabled={stop.isPending} onClick={() => stop.mutate(live.recording!)}>
            Stop recording
          </button>
        ) : (
          <button className="button main" disabled={!online || start.isPending} onClick={() => start.mutate(undefined)}>
            Record a run
          </button>
        )}
        {watches ? null : ['text', 'file', 'mqtt'].includes(link.data.way) && !link.data.commands ? (
          <span className="dim">Rellux only listens: set it, and switch it off, where it is.</span>
        ) : (
          <WriteControls rig={rig} link={link.data} live={live} />
        )}
        <span style={{ flex: 1 }} />
        <Link className="button quiet" to={`/rigs/${rig.slug}/bench`}>
          Bench view
        </Link>
        <button className="button quiet" onClick={() => setEditing(true)}>
          {link.data.stand_in ? `Simulated, ${link.data.speed}×` : link.data.device || `${link.data.host}:${link.data.port}`}
        </button>
      </div>
      <Refused error={start.error ?? stop.error} />
      <Devices rig={rig} />
    </section>
  )
}
