import { Suspense } from 'react'
import { Outlet, useLocation, useParams } from 'react-router'
import { api, need, type Rig } from '../api/client'
import { useChange, useRig } from '../api/hooks'
import { useLive } from '../api/live'
import { AlarmsNow } from '../shared/AlarmsNow'
import { Fetched } from '../shared/Fetched'
import { Guard } from '../shared/Guard'
import { KindCautions } from '../shared/KindCautions'
import { Loading, Refused } from '../shared/states'
import { moment } from '../shared/when'
import { Reasons, ReasonPanel } from './reason'
import { Spine } from './Spine'
import { type Station, STATION_NAME } from './stations'

/** One rig: spine, work surface, reason panel. */
export function RigShell() {
  const slug = useParams().slug ?? ''
  const rig = useRig(slug)
  return <Fetched query={rig}>{(data) => <Stations key={slug} rig={data} since={rig.error ? rig.dataUpdatedAt : null} />}</Fetched>
}

/** An archived rig says so on every page, and how to take it up again. */
function Archived({ rig }: { rig: Rig }) {
  const back = useChange(rig.slug, () =>
    need(
      api.PUT('/api/v1/rigs/{slug}/archive', { params: { path: { slug: rig.slug } }, body: { revision: rig.revision, archived: false } }),
    ),
  )
  return (
    <div className="notice row noprint" role="status">
      <span>This rig is archived: it can be looked at, and nothing of it changes.</span>
      <button className="button" disabled={back.isPending} onClick={() => back.mutate(undefined)}>
        Take it out of the archive
      </button>
      <Refused error={back.error} />
    </div>
  )
}

function Stations({ rig, since }: { rig: Rig; since: number | null }) {
  const { pathname } = useLocation()
  const live = useLive(rig.slug)
  const [station, within] = pathname.split('/').slice(3) as [Station, string?]
  const isHere = !STATION_NAME[station] || rig.spine.some((s) => s.station === station)
  return (
    <Reasons>
      <div className="rig">
        <div className="side">
          <Spine rig={rig} />
        </div>
        <main id="work" tabIndex={-1}>
          {since !== null && (
            <p className="notice bad noprint" role="status">
              Rellux does not answer. What stands here is from {moment(since)}; what you type is kept.
            </p>
          )}
          {rig.archived && <Archived rig={rig} />}
          {live?.notice && (
            <p className="notice bad noprint" role="alert">
              {live.notice}
            </p>
          )}
          <AlarmsNow slug={rig.slug} live={live} />
          <Guard key={pathname}>
            <Suspense fallback={<Loading />}>
              {isHere ? <Outlet context={rig} /> : <p className="lead">There is nothing to do here for {rig.name}.</p>}
            </Suspense>
          </Guard>
        </main>
        <aside aria-label="Reasons">
          <ReasonPanel />
          {!within && (
            <div className="reason">
              <KindCautions
                kind={rig.kind}
                station={station}
                watches={rig.purpose.effect === 'watches'}
                burns={!!rig.purpose.fire}
                pumps={rig.purpose.cooler?.cooled_by === 'compressor'}
              />
            </div>
          )}
        </aside>
      </div>
    </Reasons>
  )
}
