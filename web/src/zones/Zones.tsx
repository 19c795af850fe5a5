import { Link, useNavigate } from 'react-router'
import { useKept } from '../api/kept'
import { Failure, Loading } from '../shared/states'
import { ReasonedPage } from '../shell/reason'
import { ChamberForm, type Draft } from './ChamberForm'
import { useChambers } from './data'
import { PartZones } from './PartZones'
import './zones.css'

/** Chambers of several zones, and joining rigs as zones of one. */
export default function Zones() {
  return (
    <ReasonedPage
      place={
        <>
          <h2>One chamber, several controllers</h2>
          <p>
            Each zone stays a rig: it has its own sensor, switch, limiter and settings, and is wired, proved, guarded and calibrated by
            itself. Joined, each knows how warm the others keep it.
          </p>
          <p>Describe every zone as a rig first. Power and working temperature are that zone’s own.</p>
          <div className="caution">
            <strong>A limiter for each zone.</strong> One that runs away elsewhere is not felt by a sensor that sits here.
          </div>
        </>
      }
    >
      <Chambers />
    </ReasonedPage>
  )
}

function Chambers() {
  const { data, error } = useChambers()
  const navigate = useNavigate()
  const usual = data?.usual_percent ?? 0
  const [draft, setDraft, discard] = useKept<Draft>('new chamber', { name: '', zones: ['', ''], along_percent: [], supply_w: null })
  if (error && !data) return <Failure error={error} />
  if (!data) return <Loading />
  const along = draft.zones.slice(1).map((_, i) => draft.along_percent[i] ?? usual)
  return (
    <>
      <h1>Which rigs are zones of one chamber?</h1>
      {data.chambers.length > 0 && (
        <ul className="chambers" aria-label="Chambers">
          {data.chambers.map((c) => (
            <li key={c.id}>
              <Link to={`/zones/${c.id}`}>{c.name}</Link> <span className="dim">{c.zones.join(' | ')}</span>{' '}
              <PartZones id={c.id} revision={c.revision} />
            </li>
          ))}
        </ul>
      )}
      {data.free.length < 2 ? (
        <p className="empty">
          {data.free.length ? 'One rig only is free' : 'No rig is free'} that heats with elements. <Link to="/new">Describe each zone</Link>{' '}
          as a rig, then join them here.
        </p>
      ) : (
        <ChamberForm
          draft={{ ...draft, along_percent: along }}
          setDraft={setDraft}
          rigs={data.free.map((r) => [r.slug, r.name] as const)}
          usual={usual}
          onDone={(c) => {
            discard(draft)
            void navigate(`/zones/${c.id}`)
          }}
        />
      )}
    </>
  )
}
