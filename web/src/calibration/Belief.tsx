import type { Schemas } from '../api/client'
import { Fig } from '../shared/Fig'
import { Said } from '../shared/Said'
import { capital } from '../units/quantity'

/** What the uncertainty is made of, the biggest first, and what would halve it. */
export function Belief({ belief }: { belief: Schemas['Belief'] }) {
  if (!belief.terms.length) return null
  const most = belief.terms[0]!.u.value
  return (
    <section className="belief" aria-label="How far to believe it">
      <h3>
        Believed to ± <Fig figure={belief.expanded} />
      </h3>
      <ul>
        {belief.terms.map((t) => (
          <li key={t.key}>
            <span>
              {capital(t.u.name)}
              {!t.shrinks && <span className="dim"> the same in every pair</span>}
            </span>
            <span className="bar" style={{ width: `${(100 * t.u.value) / most}%` }} />
            <Fig figure={t.u} />
          </li>
        ))}
      </ul>
      <p>
        <Said>{belief.advice}</Said>
      </p>
      {belief.sampled && (
        <p className="small dim">
          By Monte Carlo ± <Fig figure={belief.sampled} />: the largest part cannot pass its ends.
        </p>
      )}
    </section>
  )
}
