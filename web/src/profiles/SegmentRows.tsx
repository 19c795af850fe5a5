import { Said } from '../shared/Said'
import { usePreferences } from '../shell/preferences'
import { lasting } from '../units/lasting'
import { difference, fixed, say } from '../units/quantity'
import { type Forecast, KIND_WORDS, type Profile, type Segment } from './data'
import { PER, type Per } from './RateField'

interface Props {
  profile: Profile
  forecast: Forecast
  per: Per
  chosen: number
  onChoose: (segment: number) => void
}

const NAMES = Object.fromEntries(KIND_WORDS)

/** The segments as rows: what is asked, and what the rig makes of it on its first passage. */
export function SegmentRows({ profile, forecast, per, chosen, onChoose }: Props) {
  const { unit } = usePreferences()
  return (
    <table className="plain segments-table">
      <thead>
        <tr>
          <th scope="col">Segment</th>
          <th scope="col">Asked</th>
          <th scope="col" className="right">
            Farthest off
          </th>
          <th scope="col" className="right">
            Core off
          </th>
          <th scope="col" className="right">
            Takes
          </th>
          <th scope="col" className="right">
            Power left
          </th>
        </tr>
      </thead>
      <tbody>
        {profile.segments.map((s, i) => {
          const found = forecast.segments.find((f) => f.segment === i)
          const marked = forecast.marks.some((m) => m.segment === i)
          const loop = profile.loops.find((l) => l.first - 1 <= i && i <= l.last - 1)
          return (
            <tr key={i} className={i === chosen ? 'chosen' : ''} onClick={() => onChoose(i)}>
              <td>
                <button className="pick" aria-pressed={i === chosen} onClick={() => onChoose(i)}>
                  {i + 1} {NAMES[s.kind]}
                </button>
                {loop && <span className="dim"> × {loop.times}</span>}
              </td>
              <td>
                {asked(s, per, unit)}
                {s.says && (
                  <span className="dim">
                    {' '}
                    · <Said>{s.says}</Said>
                  </span>
                )}
              </td>
              <td className={`right num ${marked ? 'off' : ''}`}>
                {found && s.kind !== 'end' ? say(Math.abs(found.lag_c), 'temperature_difference', unit) : '–'}
              </td>
              <td className="right num">
                {found && s.kind !== 'end' ? say(Math.abs(found.core_lag_c), 'temperature_difference', unit) : '–'}
              </td>
              <td className="right num">{found && s.kind !== 'end' ? say(found.end_s - found.start_s, 'time', unit) : '–'}</td>
              <td className="right num">{found && s.kind !== 'end' ? `${fixed(Math.max(found.reserve, 0), 0)} %` : '–'}</td>
            </tr>
          )
        })}
      </tbody>
    </table>
  )
}

/** What a segment asks for, in a few words. */
function asked(s: Segment, per: Per, unit: 'C' | 'F'): string {
  const to = s.target_c == null ? '' : say(s.target_c, 'temperature', unit)
  const held = s.holdback ? `, waits beyond ${say(s.holdback.band_c, 'temperature_difference', unit)}` : ''
  switch (s.kind) {
    case 'ramp_rate':
      return `to ${to} at ${Number((difference(s.rate_c_per_min ?? 0, unit) * PER[per]).toPrecision(3))} °${unit}/${per}${held}`
    case 'ramp_time':
      return `to ${to} in ${lasting(s.time_s)}${held}`
    case 'soak':
      return `for ${lasting(s.time_s)}${held}`
    case 'step':
      return `to ${to} at once`
    case 'wait':
      return s.wait === 'person' ? 'until somebody goes on' : `until the reading has ${s.wait === 'risen' ? 'risen' : 'fallen'} to ${to}`
    default:
      return s.end === 'hold' ? 'holds' : 'heat off'
  }
}
