import { Suspense } from 'react'
import { Outlet, useLocation, useParams } from 'react-router'
import type { Rig } from '../api/client'
import { useRig } from '../api/hooks'
import { useLive } from '../api/live'
import { Fetched } from '../shared/Fetched'
import { Guard } from '../shared/Guard'
import { Loading } from '../shared/states'
import { moment } from '../shared/when'
import { Reasons, ReasonPanel } from './reason'
import { Spine } from './Spine'

/** One rig: spine, work surface, reason panel. */
export function RigShell() {
  const slug = useParams().slug ?? ''
  const rig = useRig(slug)
  return <Fetched query={rig}>{(data) => <Stations key={slug} rig={data} since={rig.error ? rig.dataUpdatedAt : null} />}</Fetched>
}

function Stations({ rig, since }: { rig: Rig; since: number | null }) {
  const { pathname } = useLocation()
  const live = useLive(rig.slug)
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
          {live?.notice && (
            <p className="notice bad noprint" role="alert">
              {live.notice}
            </p>
          )}
          <Guard key={pathname}>
            <Suspense fallback={<Loading />}>
              <Outlet context={rig} />
            </Suspense>
          </Guard>
        </main>
        <aside aria-label="Reasons">
          <ReasonPanel />
        </aside>
      </div>
    </Reasons>
  )
}
