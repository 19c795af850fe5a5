import { useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { Link } from 'react-router'
import { useInAddress } from '../api/address'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { heat } from '../look/heat'
import { useRuns } from '../runs/data'
import { Fetched } from '../shared/Fetched'
import { NumberField, SelectField } from '../shared/fields'
import { LastingField } from '../shared/LastingField'
import { Said } from '../shared/Said'
import { ticks } from '../shared/placing'
import { problemOf, Refused } from '../shared/states'
import { useWidth } from '../shared/useWidth'
import { when } from '../shared/when'
import { usePreferences } from '../shell/preferences'
import { absolute, fixed, say, toCelsius } from '../units/quantity'
import { spoken, timeTicks } from './scale'
import { useWords } from '../units/fields'

type View = Schemas['RunProfileView']
const LEFT = 64
const RIGHT = 10
const TOP = 12
const HEIGHT = 300
const FOOT = 26

/** The profile against what was recorded: over one another, segment by segment, and by the judge of its kind. */
export function OfRun({ rig, data }: { rig: Rig; data: Schemas['ProfileView'] }) {
  const { label } = useWords()
  const runs = useRuns(rig.slug)
  const own = data.versions.flatMap((v) => v.runs)
  const [asked, choose] = useInAddress<string>('run', '')
  const held = (runs.data ?? []).filter((r) => r.samples > 0)
  const run = held.find((r) => String(r.id) === asked) ?? held.find((r) => own.includes(r.id)) ?? held[0]
  const [start, setStart] = useState<number | null>(0)
  const [level, setLevel] = useState<number | null>(null)
  const isOwn = !!run && own.includes(run.id)
  const query = useQuery({
    queryKey: ['of', rig.slug, 'run profile', rig.revision, run?.id, run?.samples, level],
    queryFn: () =>
      need(
        api.GET('/api/v1/rigs/{slug}/runs/{number}/profile', {
          params: { path: { slug: rig.slug, number: run!.id }, query: level === null ? {} : { align_c: level } },
        }),
      ),
    enabled: isOwn,
    placeholderData: (before) => (before?.run === run?.id ? before : undefined),
    ...(run?.status === 'recording' && { refetchInterval: 5000 }),
  })
  const attach = useChange(rig.slug, () =>
    need(
      api.PUT('/api/v1/rigs/{slug}/runs/{number}/profile', {
        params: { path: { slug: rig.slug, number: run!.id } },
        body: { revision: rig.revision, key: data.key, number: data.number, start_s: start ?? 0 },
      }),
    ),
  )
  if (!run)
    return (
      <div className="empty">
        <p>There is no run to look at yet.</p>
        <Link className="button" to={`/rigs/${rig.slug}/runs`}>
          Record or import one
        </Link>
      </div>
    )
  return (
    <div className="stack">
      <div className="row of-run">
        <SelectField
          label="Run"
          value={String(run.id)}
          options={held.map((r) => [String(r.id), `${r.name}, ${when(r.started_at)}${own.includes(r.id) ? '' : ' (not of this profile)'}`])}
          onChange={choose}
        />
        {isOwn && (
          <NumberField
            label={label('align_c')}
            kind="temperature"
            hint="Empty: where it began"
            value={level}
            problem={problemOf(query.error, 'align_c')}
            onChange={setLevel}
          />
        )}
        {!isOwn && (
          <>
            <LastingField label={label('start_s')} value={start} problem={problemOf(attach.error, 'start_s')} onChange={setStart} />
            <button className="button" disabled={attach.isPending || start === null} onClick={() => attach.mutate(undefined)}>
              It was a run of this profile
            </button>
          </>
        )}
      </div>
      <Refused error={attach.error} />
      {isOwn && <Fetched query={query}>{(view) => <Judged view={view} level={level} growing={run.status === 'recording'} />}</Fetched>}
    </div>
  )
}

const PLACE: Record<string, string> = {
  load: 'the load’s own probe',
  second: 'the second probe',
  reading: 'the control reading: no probe was in the load',
}

function Judged({ view, level, growing }: { view: View; level: number | null; growing: boolean }) {
  const { unit } = usePreferences()
  return (
    <>
      <Overlay view={view} growing={growing} />
      {level !== null && <p className="profile-answer">{passed(say(level, 'temperature', unit), view)}</p>}
      {view.verdict && (
        <p className="profile-answer">
          <span className={`badge ${view.verdict === 'passed' ? 'fine' : view.verdict === 'failed' ? 'danger' : 'advice'}`}>
            {VERDICT[view.verdict]}
          </span>{' '}
          {count(view)}
        </p>
      )}
      {view.scores.length > 0 && (
        <table className="plain scores">
          <tbody>
            {view.scores.map((s) => (
              <tr key={s.key}>
                <td>
                  <span className={`badge ${s.verdict === 'passed' ? 'fine' : s.verdict === 'failed' ? 'danger' : 'advice'}`}>
                    {VERDICT[s.verdict]}
                  </span>
                </td>
                <td>
                  <Said>{s.name}</Said>
                  <div className="small dim">{s.role}</div>
                </td>
                <td>
                  <Said>{s.says}</Said>
                  {s.margin != null && s.verdict !== 'undecided' && (
                    <div className="small dim">
                      {s.margin < 0 ? 'outside' : 'inside'} by{' '}
                      {say(Math.abs(s.margin), s.kind === 'temperature' ? 'temperature_difference' : s.kind, unit)}
                    </div>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {view.cannot && <p className="dim">{view.cannot}</p>}
      <p className="small dim">Judged by {PLACE[view.place]}.</p>
      <table className="plain passed-table">
        <thead>
          <tr>
            <th scope="col">Segment</th>
            <th scope="col" className="right">
              Took
            </th>
            <th scope="col" className="right">
              Waited
            </th>
            <th scope="col" className="right">
              Farthest off
            </th>
            <th scope="col" className="right">
              Overshoot
            </th>
            <th scope="col" className="right">
              Really held
            </th>
            <th scope="col" className="right">
              Energy
            </th>
          </tr>
        </thead>
        <tbody>
          {view.segments.map((s, i) => (
            <tr key={i}>
              <td data-label="Segment">{s.segment + 1}</td>
              <td className="right num" data-label="Took">
                {say(s.end_s - s.start_s, 'time', unit)}
              </td>
              <td className="right num" data-label="Waited">
                {s.held_s > 0 ? say(s.held_s, 'time', unit) : '–'}
              </td>
              <td className="right num" data-label="Farthest off">
                {s.lag_c == null ? '–' : say(Math.abs(s.lag_c), 'temperature_difference', unit)}
              </td>
              <td className="right num" data-label="Overshoot">
                {s.overshoot_c == null ? '–' : say(s.overshoot_c, 'temperature_difference', unit)}
              </td>
              <td className="right num" data-label="Really held">
                {s.within_s == null ? '–' : say(s.within_s, 'time', unit)}
                {s.unseen_s > 0 && <div className="small dim">{say(s.unseen_s, 'time', unit)} not recorded</div>}
              </td>
              <td className="right num" data-label="Energy">
                <Energy of={view.energies[i]!} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {view.earlier.map((e) => (
        <p key={e.run}>
          Against {e.name}, {when(e.started_at)}: <Said>{e.says}</Said>
        </p>
      ))}
    </>
  )
}

/** What a segment took, and was foreseen to take. */
function Energy({ of: { took_kwh: took, foreseen_kwh: foreseen } }: { of: View['energies'][number] }) {
  if (took == null) return '–'
  return (
    <>
      {fixed(took, took < 10 ? 2 : 1)} kWh
      {foreseen != null && <div className="small dim">foreseen {fixed(foreseen, took < 10 ? 2 : 1)}</div>}
    </>
  )
}

const VERDICT = { passed: 'passed', failed: 'failed', undecided: 'open' } as const

function count(view: View): string {
  const failed = view.scores.filter((s) => s.verdict === 'failed').length
  const open = view.scores.filter((s) => s.verdict === 'undecided').length
  if (!failed && !open) return `every limit of ${view.scores.length}`
  return [failed && `${failed} of ${view.scores.length} limits failed`, open && `${open} cannot be decided`].filter(Boolean).join(', ')
}

const shifted = (times: number[], by: number | null) => (by ? times.map((t) => t + by) : times)

/** How much later the reading passed a temperature than it was to. */
function passed(level: string, { planned_late_s: planned, predicted_late_s: predicted }: View): string {
  const told = (late: number, than: string) =>
    Math.abs(late) < 0.5 ? `when it was ${than}` : `${say(Math.abs(late), 'time', 'C')} ${late > 0 ? 'later' : 'sooner'} than ${than}`
  const said = [planned !== null && told(planned, 'planned'), predicted !== null && told(predicted, 'predicted')].filter(Boolean)
  return said.length
    ? `It passed ${level} ${said.join(', ')}.`
    : `It was not recorded passing ${level} as this profile does: laid over one another where it began.`
}

/** Planned, predicted and recorded on one scale. */
function Overlay({ view, growing }: { view: View; growing: boolean }) {
  const box = useRef<HTMLDivElement>(null)
  const width = useWidth(box)
  const { unit, theme } = usePreferences()
  const known = (values: (number | null)[]) => values.filter((v): v is number => v != null)
  const all = [...known(view.planned_c), ...known(view.reading_c), ...known(view.load_c)]
  if (!all.length) return <p className="empty">Nothing of it was recorded.</p>
  const room = Math.max((Math.max(...all) - Math.min(...all)) * 0.07, 2)
  const [low, high] = [Math.min(...all) - room, Math.max(...all) + room]
  const latest = view.reading_c.findLastIndex((v) => v != null)
  const begin = view.start_s
  const end = Math.max(view.time_s.at(-1) ?? 1, begin + 1)
  const bottom = HEIGHT - FOOT
  const x = (t: number) => LEFT + ((t - begin) / (end - begin)) * (width - LEFT - RIGHT)
  const y = (c: number) => TOP + ((high - c) / (high - low)) * (bottom - TOP)
  const line = (times: number[], values: (number | null)[]) => {
    let pen = 'M'
    return values
      .map((v, i) => {
        if (v == null || times[i]! > end || times[i]! < begin) {
          pen = 'M'
          return ''
        }
        const step = `${pen}${x(times[i]!).toFixed(1)} ${y(v).toFixed(1)}`
        pen = 'L'
        return step
      })
      .join('')
  }
  return (
    <div ref={box} className="profile-picture">
      <svg width={width} height={HEIGHT} role="img" aria-label="Planned, predicted and recorded">
        {ticks(absolute(low, unit), absolute(high, unit), 6).map((t) => (
          <g key={t} className="scale">
            <line x1={LEFT} x2={width - RIGHT} y1={y(toCelsius(t, unit))} y2={y(toCelsius(t, unit))} />
            <text x={LEFT - 8} y={y(toCelsius(t, unit)) + 5} textAnchor="end">
              {fixed(t, 0)}°
            </text>
          </g>
        ))}
        <path className="foreseen" d={line(shifted(view.predicted_s, view.predicted_late_s), view.predicted_c)} />
        {view.place !== 'reading' && <path className="core" d={line(view.time_s, view.load_c)} />}
        <path className="predicted" d={line(view.time_s, view.reading_c)} stroke={heat(Math.max(...known(view.reading_c)), theme)} />
        <path className="planned" d={line(shifted(view.time_s, view.planned_late_s), view.planned_c)} />
        {growing && latest >= 0 && <circle className="present" cx={x(view.time_s[latest]!)} cy={y(view.reading_c[latest]!)} r={7} />}
        {timeTicks(end - begin, width).map((t) => (
          <text key={t} className="hour" x={x(begin + t)} y={HEIGHT - 6} textAnchor={t ? 'middle' : 'start'}>
            {t ? spoken(t) : 'start'}
          </text>
        ))}
      </svg>
      <p className="small dim legend">Thin and black: planned. Warm: recorded. Dashed: the load. Dotted: as it was predicted.</p>
    </div>
  )
}
