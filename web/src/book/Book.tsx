import { useQuery } from '@tanstack/react-query'
import { useOutletContext } from 'react-router'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useInAddress } from '../api/address'
import { useRigs } from '../api/hooks'
import { SelectField } from '../shared/fields'
import { Fetched } from '../shared/Fetched'
import { when } from '../shared/when'
import { usePreferences } from '../shell/preferences'
import { ReasonOfPlace } from '../shell/reason'
import { STATION_NAME, STATIONS, type Station } from '../shell/stations'
import { useWords } from '../units/fields'
import { said } from '../units/message'
import { Ribbon } from '../workshop/Ribbon'
import { RigFile } from './RigFile'

/** Everything that happened to the rig, newest first. */
export default function Book() {
  const rig = useOutletContext<Rig>()
  const [station, setStation] = useInAddress<Station | ''>('station', '', STATIONS)
  const { data: rigs } = useRigs()
  const query = useQuery({
    queryKey: ['of', rig.slug, 'book'],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/book', { params: { path: { slug: rig.slug } } })),
  })
  const ribbon = rigs?.find((r) => r.slug === rig.slug)?.ribbon
  return (
    <>
      <h1>What was done, when and why?</h1>
      <RigFile rig={rig} />
      {ribbon && <Ribbon runs={ribbon} highest={rig.purpose.highest_c} ambient={rig.purpose.ambient_c} />}
      <div style={{ maxWidth: 220, margin: '6px 0 8px' }}>
        <SelectField
          bare
          label="Station"
          value={station}
          options={[['', 'All stations'], ...STATIONS.map((s) => [s, STATION_NAME[s]] as const)]}
          onChange={setStation}
        />
      </div>
      <Fetched query={query}>{(entries) => <Entries entries={entries.filter((e) => !station || e.station === station)} />}</Fetched>
      <ReasonOfPlace>
        <h2>One rig, one file</h2>
        <p>The export is a zip of JSON and CSV, described in docs/rig-file.md. Importing it on another machine gives the same rig.</p>
      </ReasonOfPlace>
    </>
  )
}

function Entries({ entries }: { entries: Schemas['EntryView'][] }) {
  const { unit } = usePreferences()
  const changes = useChanges()
  if (!entries.length) return <p className="dim">No entry at this station.</p>
  return (
    <table className="plain">
      <tbody>
        {entries.map((e) => (
          <tr key={e.id}>
            <td className="small" style={{ whiteSpace: 'nowrap' }}>
              {when(e.at)}
            </td>
            <td className="dim">{STATION_NAME[e.station as Station]}</td>
            <td>
              <b style={{ fontWeight: 600 }}>{said(e.title, unit)}</b>
              <div className="small dim">{changes(e)}</div>
              {e.why && <div className="small">{said(e.why, unit)}</div>}
            </td>
            <td className="dim small">
              {e.who}
              {e.imported && <div>as the imported file says</div>}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function useChanges() {
  const { label, says } = useWords()
  return (e: Schemas['EntryView']) =>
    Object.keys({ ...e.before, ...e.after })
      .filter((n) => n !== 'list') // a whole wiring, kept to be put back
      .slice(0, 8)
      .map((n) => `${label(n)}: ${n in e.before ? `${says(n, e.before[n])} → ` : ''}${says(n, e.after[n])}`)
      .join(' · ')
}
