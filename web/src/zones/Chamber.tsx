import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { Link, useParams } from 'react-router'
import { useKept } from '../api/kept'
import { useWorkshop } from '../api/hooks'
import { useLive } from '../api/live'
import { heat } from '../look/heat'
import { Fig, Figures } from '../shared/Fig'
import { FindingTitles } from '../shared/Findings'
import { Said } from '../shared/Said'
import { Failure, Loading } from '../shared/states'
import { Temperature } from '../shared/Temperature'
import { usePreferences } from '../shell/preferences'
import { ReasonedPage } from '../shell/reason'
import { SAFE_OFF } from '../shell/safeOffEvent'
import { useSafeOff } from '../shell/useSafeOff'
import { quantity } from '../units/quantity'
import { ChamberForm, type Draft } from './ChamberForm'
import { useChamber, useChambers, ZONES, type ChamberView } from './data'
import { HeatUp } from './HeatUp'
import { PartZones } from './PartZones'
import './zones.css'

/** All zones of one chamber: what each holds and gives, what they do to one another, how they heat up. */
export default function Chamber() {
  const id = Number(useParams().id)
  const { data, error } = useChamber(id)
  if (error && !data) return <Failure error={error} />
  if (!data) return <Loading />
  return (
    <ReasonedPage
      place={
        <>
          <h2>Try it: how far does a neighbour come along?</h2>
          <p>
            Heat one zone alone to a steady temperature, its neighbour off, and wait until both have settled. How far the neighbour rose
            above the room, over how far the heated one did, is the number between them.
          </p>
          <p>
            What Tuning finds of a zone is taken as found with the others held where they work: record it so. Prove each zone, and heat it
            first, with the others off.
          </p>
          <div className="caution">
            <strong>A limiter for each zone, and one switch that cuts all.</strong> Heat off here asks every controller; the main switch
            asks nobody.
          </div>
        </>
      }
    >
      <Together chamber={data} />
    </ReasonedPage>
  )
}

function Together({ chamber }: { chamber: ChamberView }) {
  const { unit } = usePreferences()
  const { data: rigs = [] } = useWorkshop()
  const slugs = chamber.zones.map((z) => z.slug)
  const linked = rigs.some((r) => slugs.includes(r.slug) && r.live.status !== 'none')
  const name = (slug: string) => chamber.zones.find((z) => z.slug === slug)?.name ?? slug
  return (
    <>
      <div className="between">
        <h1>{chamber.name}</h1>
        {linked && (
          <button className="button" onClick={() => window.dispatchEvent(new Event(SAFE_OFF))}>
            Heat off in all zones
          </button>
        )}
      </div>
      <p className="lead">
        <Said>{chamber.headline}</Said>
      </p>
      <div className="zone-row" role="group" aria-label="Zones">
        {chamber.zones.map((zone, i) => (
          <Zone key={zone.slug} zone={zone} beside={chamber.along_percent[i]} />
        ))}
      </div>
      <p className="small dim">Between them: with one heated alone, the other comes to so much of its rise above the room.</p>
      {chamber.findings.length > 0 && <FindingTitles findings={chamber.findings} />}
      <HeatUp chamber={chamber} />
      <section aria-label="How they feel one another">
        <h2>How do they feel one another?</h2>
        <Figures figures={chamber.figures} />
        <p className="small dim">
          Tuned in this order, each with those before it closed: {chamber.order.map(name).join(', ')}. All heaters at once draw{' '}
          {`${quantity(chamber.draws_w, 'power', unit).text} ${quantity(chamber.draws_w, 'power', unit).unit}`}.
        </p>
      </section>
      <Change key={chamber.revision} chamber={chamber} />
    </>
  )
}

/** One zone as it stands beside the next: what it holds, what it reads now, what it gives, where the others keep it. */
function Zone({ zone, beside }: { zone: ChamberView['zones'][number]; beside: number | undefined }) {
  const { theme } = usePreferences()
  const live = useLive(zone.slug)
  const { state, press } = useSafeOff(zone.slug)
  useEffect(() => {
    window.addEventListener(SAFE_OFF, press)
    return () => window.removeEventListener(SAFE_OFF, press)
  })
  const output = Math.min(Math.max(zone.holds.value, 0), 100)
  return (
    <>
      <section className="zone" aria-label={zone.name} style={{ borderTopColor: heat(zone.working_c, theme) }}>
        <h2>
          <Link to={`/rigs/${zone.slug}`}>{zone.name}</Link>
        </h2>
        {live && live.status !== 'none' ? (
          <div className="reading">
            <Temperature celsius={live.status === 'online' ? live.reading_c : null} tinted />
          </div>
        ) : (
          <p className="dim">not linked</p>
        )}
        <p className="dim">
          to hold <Temperature celsius={zone.working_c} />
        </p>
        <div className="given" aria-hidden>
          <i style={{ width: `${output}%` }} />
        </div>
        <p>
          holds with <Fig figure={zone.holds} />
        </p>
        <p className="small dim">
          its heater off, the others keep it at <Temperature celsius={zone.kept_c} />
        </p>
        {state && (
          <p role="status" className={`off ${state.phase}`}>
            {state.phase === 'sending' && 'Switching off…'}
            {state.phase === 'confirmed' && `Off: the controller says so, after ${state.seconds.toFixed(1)} s`}
            {state.phase === 'unconfirmed' && 'Not confirmed: open the main switch'}
          </p>
        )}
        <Link className="button" to={`/rigs/${zone.slug}/bench`}>
          Bench view
        </Link>
      </section>
      {beside !== undefined && (
        <div className="joint">
          <span>
            <b>{beside} %</b>
            <br />
            <span className="small dim">along</span>
          </span>
        </div>
      )}
    </>
  )
}

/** Another order, other numbers, or every rig by itself again. */
function Change({ chamber }: { chamber: ChamberView }) {
  const queries = useQueryClient()
  const { data } = useChambers()
  const now: Draft = {
    name: chamber.name,
    zones: chamber.zones.map((z) => z.slug),
    along_percent: chamber.along_percent,
    supply_w: chamber.supply_w,
  }
  const [draft, setDraft, discard] = useKept<Draft>(`chamber ${chamber.id} ${chamber.revision}`, now)
  const [open, setOpen] = useState(false)
  if (!data) return null
  const free = data.free.map((r) => [r.slug, r.name] as const)
  const mine = chamber.zones.map((z) => [z.slug, z.name] as const)
  return (
    <details open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>Change the zones, or part them</summary>
      <ChamberForm
        draft={draft}
        setDraft={setDraft}
        rigs={[...mine, ...free]}
        usual={data.usual_percent}
        chamber={chamber}
        onDone={(found) => {
          discard(draft)
          queries.setQueryData([...ZONES, chamber.id], found)
          setOpen(false)
        }}
      />
      <PartZones id={chamber.id} revision={chamber.revision} />
    </details>
  )
}
