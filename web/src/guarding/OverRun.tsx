import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useInAddress } from '../api/address'
import { useRuns } from '../runs/data'
import { Fetched } from '../shared/Fetched'
import { SelectField } from '../shared/fields'
import { usePreferences } from '../shell/preferences'
import { absolute, fixed, say } from '../units/quantity'
import type { Plan } from './plan'

/** The plan over a recorded run: what would have called, and what settings would have. */
export function OverRun({ rig, plan }: { rig: Rig; plan: Plan }) {
  const runs = useRuns(rig.slug)
  const [chosen, choose] = useInAddress<string>('run', '')
  const [alarm, setAlarm] = useInAddress<string>('alarm', '0')
  const held = (runs.data ?? []).filter((r) => r.samples > 0)
  const run = held.find((r) => String(r.id) === chosen) ?? held[0]
  const query = useQuery({
    queryKey: ['of', rig.slug, 'guarding run', rig.revision, run?.id, run?.samples, alarm],
    queryFn: () =>
      need(
        api.GET('/api/v1/rigs/{slug}/guarding/runs/{run}', {
          params: { path: { slug: rig.slug, run: run!.id }, query: { alarm: Number(alarm) } },
        }),
      ),
    enabled: !!run,
    placeholderData: (before) => before,
  })
  return (
    <Fetched query={runs}>
      {() =>
        !run ? (
          <div className="empty">
            <p>There is no run to look at yet.</p>
            <Link className="button" to={`/rigs/${rig.slug}/runs`}>
              Record or import one
            </Link>
          </div>
        ) : (
          <section className="stack" aria-label="Over a run">
            <SelectField label="Run" value={String(run.id)} options={held.map((r) => [String(r.id), r.name] as const)} onChange={choose} />
            <Fetched query={query}>
              {(data) => (
                <>
                  <Calls data={data} />
                  <Lost glitches={data.glitches} />
                </>
              )}
            </Fetched>
            {plan.alarms.length > 0 && (
              <>
                <SelectField
                  label="What other settings of this alarm would have done"
                  value={alarm}
                  options={plan.alarms.map((a, i) => [String(i), a.name] as const)}
                  onChange={setAlarm}
                />
                <Fetched query={query}>{(data) => <Thresholds chart={data.chart} kind={plan.alarms[Number(alarm)]?.alarm.kind} />}</Fetched>
              </>
            )}
          </section>
        )
      }
    </Fetched>
  )
}

function Calls({ data }: { data: Schemas['RunCheckView'] }) {
  const { unit } = usePreferences()
  return (
    <table className="plain">
      <thead>
        <tr>
          <th>would have called</th>
          <th className="right">times</th>
          <th className="right">in all</th>
          <th>first</th>
        </tr>
      </thead>
      <tbody>
        {data.checked.map((c) => (
          <tr key={c.name}>
            <td>{c.name}</td>
            {c.recorded ? (
              <>
                <td className="right num">{c.count}</td>
                <td className="right num">{c.count ? say(c.acting_s, 'time', unit) : '–'}</td>
                <td>
                  {c.calls.slice(0, 3).map((o, i) => (
                    <span key={i} className="num">
                      {i > 0 && ', '}
                      after {say(o.begin_s, 'time', unit)}
                      {o.furthest_c != null && <span className="dim"> to {say(o.furthest_c, 'temperature', unit)}</span>}
                    </span>
                  ))}
                  {c.count > 3 && ' …'}
                </td>
              </>
            ) : (
              <td colSpan={3} className="dim">
                what it watches was not recorded: nobody can say
              </td>
            )}
          </tr>
        ))}
      </tbody>
    </table>
  )
}

/** Every lost reading, and what the plan would have made of it. */
function Lost({ glitches }: { glitches: Schemas['Glitch'][] }) {
  const { unit } = usePreferences()
  if (!glitches.length) return <p className="dim">No reading was lost in this run.</p>
  return (
    <ul aria-label="Lost readings">
      {glitches.map((g) => (
        <li key={g.begin_s}>
          <b>{g.rides ? 'goes on' : 'ends the run'}</b>: without a reading for {say(g.length_s, 'time', unit)}, after{' '}
          {say(g.begin_s, 'time', unit)}; {g.why}
        </li>
      ))}
    </ul>
  )
}

/** How often it would have called, for each threshold and delay. */
function Thresholds({ chart, kind }: { chart: Schemas['Chart'] | null; kind?: string }) {
  const { unit } = usePreferences()
  if (!chart) return <p className="dim">This kind has no threshold of the reading to try, or the run lacks what it watches.</p>
  const most = Math.max(...chart.calls.flat(), 1)
  const at = (v: number) => (kind === 'high' || kind === 'low' ? `${fixed(absolute(v, unit), 1)}` : say(v, 'temperature_difference', unit))
  return (
    <div className="scrolling">
      <table className="plain small thresholds">
        <thead>
          <tr>
            <th>at · after</th>
            {chart.delays_s.map((d) => (
              <th key={d} className="right">
                {d ? say(d, 'time', unit) : 'at once'}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {chart.values.map((v, i) => (
            <tr key={v}>
              <td className="num">{at(v)}</td>
              {chart.calls[i]!.map((n, k) => (
                <td
                  key={k}
                  className="right num"
                  style={{ background: n ? `color-mix(in srgb, var(--fault) ${10 + (40 * n) / most}%, transparent)` : undefined }}
                >
                  {n || '·'}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
