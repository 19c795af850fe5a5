import { useLive } from '../api/live'
import { Temperature } from '../shared/Temperature'

/** Reading and set-point of the rig in the top bar, whenever there is a link. */
export function RigLive({ slug }: { slug: string }) {
  const live = useLive(slug)
  if (!live || live.status === 'none') return null
  if (live.status === 'offline') return <span className="live dim">no answer{live.message && `: ${live.message}`}</span>
  return (
    <span className="live" aria-label="Reading now">
      <span className="small dim">{live.recording ? 'recording' : 'reading'}</span>
      <Temperature celsius={live.reading_c} tinted bare />
      <span className="small dim">set</span>
      <span className="set">
        <Temperature celsius={live.setpoint_c} bare />
      </span>
    </span>
  )
}
