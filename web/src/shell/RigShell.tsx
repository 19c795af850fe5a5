import { Suspense } from 'react'
import { Outlet, useLocation, useParams } from 'react-router'
import { useRig } from '../api/hooks'
import { Guard } from '../shared/Guard'
import { Failure, Loading } from '../shared/states'
import { Reasons, ReasonPanel } from './reason'
import { Spine } from './Spine'

/** One rig: spine, work surface, reason panel. */
export function RigShell() {
  const slug = useParams().slug ?? ''
  const { pathname } = useLocation()
  const rig = useRig(slug)
  if (rig.error) return <Failure error={rig.error} />
  if (!rig.data) return <Loading />
  return (
    <Reasons key={slug}>
      <div className="rig">
        <div className="side">
          <Spine rig={rig.data} />
        </div>
        <main id="work" tabIndex={-1}>
          <Guard key={pathname}>
            <Suspense fallback={<Loading />}>
              <Outlet context={rig.data} />
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
