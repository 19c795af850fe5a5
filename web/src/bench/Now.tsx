import type { Live } from '../api/client'
import { useWatches } from '../api/hooks'
import { Feel } from '../shared/Feel'
import { Said } from '../shared/Said'
import { Temperature } from '../shared/Temperature'
import { fixed } from '../units/quantity'

const MODE: Record<string, string> = { off: 'off', on_off: 'on/off', pid: 'PID' }

/** Reading, set-point and output, as large as the place allows. What is not heard any more is not shown as if it were. */
export function Now({ slug, live }: { slug: string; live: Live }) {
  const watches = useWatches(slug)
  const online = live.status === 'online'
  return (
    <div className="now-big">
      <div className="reading">
        <Temperature celsius={online ? live.reading_c : null} tinted />
      </div>
      {online ? (
        !watches && (
          <div className="beside">
            <div>
              <span className="dim">set </span>
              <Temperature celsius={live.setpoint_c} />
            </div>
            <div>
              <span className="dim">output </span>
              <span className="num">{live.output == null ? '–' : fixed(live.output, 0)}</span>
              <span className="dim"> %{live.mode && `, ${MODE[live.mode] ?? live.mode}`}</span>
            </div>
          </div>
        )
      ) : (
        <p className="beside lost">
          no answer
          {live.message && (
            <>
              : <Said>{live.message}</Said>
            </>
          )}
        </p>
      )}
      {!watches && (
        <div
          className="outbar"
          role="meter"
          aria-label="Output"
          aria-valuenow={Math.round(live.output ?? 0)}
          aria-valuemin={0}
          aria-valuemax={100}
        >
          <i style={{ width: `${online ? (live.output ?? 0) : 0}%` }} />
        </div>
      )}
      <Feel live={live} />
    </div>
  )
}
