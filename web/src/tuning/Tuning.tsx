import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useOutletContext, useSearchParams } from 'react-router'
import { api, need, type Rig } from '../api/client'
import { useRuns } from '../runs/data'
import { Fetched } from '../shared/Fetched'
import { usePreferences } from '../shell/preferences'
import { ReasonOfPlace } from '../shell/reason'
import { round } from '../units/quantity'
import { Complaint } from './Complaint'
import { Candidates } from './Candidates'
import { Identify } from './Identify'
import { Ledger } from './Ledger'
import { Furnace } from './Furnace'
import { OverTemperature } from './OverTemperature'
import { Process } from './Process'
import { Relay } from './Relay'
import './tuning.css'

/** From a run to a process, from the process to candidates, and one of them accepted. */
export default function Tuning() {
  const rig = useOutletContext<Rig>()
  const { unit } = usePreferences()
  const [query, setQuery] = useSearchParams()
  const [again, setAgain] = useState(false)
  const runs = useRuns(rig.slug)
  const tuning = useQuery({
    queryKey: ['of', rig.slug, 'tuning', rig.revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/tuning', { params: { path: { slug: rig.slug } } })),
    placeholderData: (before) => before,
  })
  const wanted = query.get('run')
  return (
    <>
      <h1>How will it get to {round(rig.purpose.working_c, unit)}?</h1>
      <Fetched query={runs}>
        {(known) => (
          <Fetched query={tuning}>
            {(data) =>
              known.length === 0 ? (
                <div className="empty" style={{ marginTop: 14 }}>
                  <p>The process is found from a run: a heat-up, a step, or an on/off cycle. There is none yet.</p>
                  <Link className="button main" to={`/rigs/${rig.slug}/runs`}>
                    Record or import one
                  </Link>
                </div>
              ) : again || wanted !== null || !data.identified ? (
                <Identify
                  rig={rig}
                  runs={known.filter((r) => r.samples > 0)}
                  start={{ run: wanted ? Number(wanted) : undefined, from: numberOf(query.get('from')), to: numberOf(query.get('to')) }}
                  onDone={() => {
                    setAgain(false)
                    setQuery({})
                  }}
                  onCancel={data.identified ? () => (setAgain(false), setQuery({})) : undefined}
                />
              ) : (
                <>
                  <Process identified={data.identified} problem={data.problem} onAgain={() => setAgain(true)} />
                  {data.candidates.length > 0 && <Candidates rig={rig} data={data} />}
                  {data.candidates.length > 0 && <Relay rig={rig} />}
                  {data.candidates.length > 0 && <Complaint rig={rig} runs={known.filter((r) => r.samples > 0)} />}
                  <Ledger rig={rig} />
                  {data.identified.furnace && <Furnace furnace={data.identified.furnace} />}
                  {data.over_temperature && <OverTemperature over={data.over_temperature} />}
                </>
              )
            }
          </Fetched>
        )}
      </Fetched>
      <ReasonOfPlace>
        <h2>What to trust</h2>
        <p>The shade is where the reading will probably be, whichever of the processes it is that the record leaves possible.</p>
        <p>Ms tells how near the loop is to swinging: below 1.6 is calm, above 2 is nervous.</p>
        <div className="caution">
          <strong>Empty the rig first.</strong> Limits and alarms are set before tuning, because tuning overshoots. Never step-test with
          product inside.
        </div>
      </ReasonOfPlace>
    </>
  )
}

const numberOf = (text: string | null) => (text === null ? undefined : Number(text))
