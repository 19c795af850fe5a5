import { Link, useSearchParams } from 'react-router'
import { useWorkshop } from '../api/hooks'
import { useLive, type Point } from '../api/live'
import { Calling } from '../shared/AlarmsNow'
import { Failure, Loading } from '../shared/states'
import { Now } from './Now'
import { Trend } from './Trend'
import { useTrend } from './trend'
import './bench.css'

const SPANS_S = [300, 1200, 3600, 8 * 3600]

/** The shortest stretch that holds everything heard so far. */
const spanOf = (points: Point[]) => {
  const length = points.length ? points.at(-1)![0] - points[0]![0] : 0
  return SPANS_S.find((s) => s >= length) ?? SPANS_S.at(-1)!
}

/** Every linked rig at once, for a screen on the wall; the address holds which, so that it comes back after a restart. */
export default function Wall() {
  const workshop = useWorkshop()
  const [search, setSearch] = useSearchParams()
  if (workshop.error && !workshop.data) return <Failure error={workshop.error} />
  if (!workshop.data) return <Loading />
  const linked = workshop.data.filter((r) => !r.archived && !r.unreadable && r.live.status !== 'none')
  const asked = search.get('rigs')?.split(',').filter(Boolean)
  const shown = asked ? linked.filter((r) => asked.includes(r.slug)) : linked
  const toggle = (slug: string) => {
    const now = shown.map((r) => r.slug)
    const next = now.includes(slug) ? now.filter((s) => s !== slug) : [...now, slug]
    setSearch(next.length === linked.length ? {} : { rigs: next.join(',') }, { replace: true })
  }
  return (
    <main className="page wall" id="work" tabIndex={-1}>
      <h1 className="visually-hidden">Wall screen</h1>
      {shown.length ? (
        <div className="wall-grid">
          {shown.map((r) => (
            <OnTheWall key={r.slug} slug={r.slug} name={r.name} />
          ))}
        </div>
      ) : (
        <p className="empty">{linked.length ? 'Choose a rig below.' : 'No rig is linked yet: link a controller at Runs.'}</p>
      )}
      <div className="row wall-foot" role="group" aria-label="Rigs shown">
        {linked.map((r) => (
          <label key={r.slug} className="tick">
            <input type="checkbox" checked={shown.some((s) => s.slug === r.slug)} onChange={() => toggle(r.slug)} /> {r.name}
          </label>
        ))}
      </div>
    </main>
  )
}

function OnTheWall({ slug, name }: { slug: string; name: string }) {
  const live = useLive(slug)
  const points = useTrend(slug, live, SPANS_S.at(-1)!)
  return (
    <section aria-label={name}>
      <div className="between">
        <h2>
          <Link to={`/rigs/${slug}/bench`}>{name}</Link>
        </h2>
        <span className={live?.recording ? '' : 'dim'}>{live?.recording ? 'recording' : ''}</span>
      </div>
      {live ? (
        <>
          <Now slug={slug} live={live} />
          <Calling live={live} />
          <Trend points={points} span={spanOf(points)} height={110} />
        </>
      ) : (
        <p className="wait">Listening…</p>
      )}
    </section>
  )
}
