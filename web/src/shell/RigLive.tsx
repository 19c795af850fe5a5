import { useState } from 'react'
import type { Live } from '../api/client'
import { useWatches } from '../api/hooks'
import { useLive } from '../api/live'
import { armedHere, useDisarmOnLeaving } from '../api/thisWindow'
import { Said } from '../shared/Said'
import { Temperature } from '../shared/Temperature'

/** Whether this window may write, for how long, and that it no longer may. */
export function Armed({ slug }: { slug: string }) {
  const live = useLive(slug)
  const here = armedHere(live)
  const [was, setWas] = useState(false)
  useDisarmOnLeaving(slug, here)
  if (here && !was) setWas(true)
  if (!live || live.status === 'none') return null
  if (here) return <span className="armed">armed, {left(live)}</span>
  if (live.armed) return <span className="armed lapsed">armed in another window</span>
  return was ? (
    <button className="button quiet armed lapsed" onClick={() => setWas(false)}>
      no longer armed ✕
    </button>
  ) : null
}

const left = (live: Live) => `${Math.floor(live.armed_left_s / 60)}:${String(Math.floor(live.armed_left_s % 60)).padStart(2, '0')}`

/** Reading and set-point of the rig in the top bar, whenever there is a link. */
export function RigLive({ slug }: { slug: string }) {
  const live = useLive(slug)
  const watches = useWatches(slug)
  if (!live || live.status === 'none') return null
  if (live.message === 'archived') return <span className="live dim">archived</span>
  if (live.status === 'offline')
    return (
      <span className="live dim">
        no answer
        {live.message && (
          <>
            : <Said>{live.message}</Said>
          </>
        )}
      </span>
    )
  return (
    <span className="live" aria-label="Reading now">
      <span className="small dim">{live.recording ? 'recording' : 'reading'}</span>
      <Temperature celsius={live.reading_c} tinted bare />
      {!watches && (
        <>
          <span className="small dim">set</span>
          <span className="set">
            <Temperature celsius={live.setpoint_c} bare />
          </span>
        </>
      )}
    </span>
  )
}
