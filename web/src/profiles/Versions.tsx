import { Link } from 'react-router'
import type { Schemas } from '../api/client'

/** Every version of a profile, and the runs that were of it. */
export function Versions({ data, slug }: { data: Schemas['ProfileView']; slug: string }) {
  return (
    <details className="versions">
      <summary>
        {data.versions.length === 1 ? 'One version' : `${data.versions.length} versions`}; one that was run is never changed, only succeeded
      </summary>
      <ul>
        {data.versions.map((v) => (
          <li key={v.number}>
            <b>{v.number}</b> {new Date(v.at).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })}, {v.who}
            {v.why && `: ${v.why}`}
            {v.runs.map((run) => (
              <span key={run}>
                {' '}
                <Link to={`/rigs/${slug}/runs/${run}`}>run</Link>
              </span>
            ))}
          </li>
        ))}
      </ul>
    </details>
  )
}
