import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need, type Rig } from '../api/client'
import { Fig } from '../shared/Fig'
import { NumberField } from '../shared/fields'
import { Said } from '../shared/Said'
import { problemOf, Refused } from '../shared/states'
import { capital } from '../units/quantity'
import { useWords } from '../units/fields'

const TINTS = ['var(--cable)', 'var(--ink)', 'var(--dim)', 'var(--line)', 'var(--hair)']

/** How much of the process window is eaten, and by what: one bar from the working temperature to the nearer end. */
export function WindowEaten({ rig }: { rig: Rig }) {
  const { label } = useWords()
  const [uneven, setUneven] = useState<number | null>(null)
  const [swing, setSwing] = useState<number | null>(null)
  const query = useQuery({
    queryKey: ['of', rig.slug, 'calibration', 'window', rig.revision, uneven, swing],
    queryFn: () =>
      need(
        api.GET('/api/v1/rigs/{slug}/calibration/window', {
          params: { path: { slug: rig.slug }, query: { ...(uneven !== null && { uneven }), ...(swing !== null && { swing }) } },
        }),
      ),
    placeholderData: (before) => before,
    retry: false,
  })
  const found = query.data?.window
  if (query.data && !found) return null
  const full = found ? Math.max(found.half.value, found.eaten.value) : 1
  return (
    <section className="window-eaten" aria-label="How much of the process window is eaten">
      <h2>How much of the window is eaten?</h2>
      {query.error && <Refused error={query.error} />}
      {found && (
        <>
          <p>
            <span className={`badge ${found.holds ? 'fine' : 'fault'}`}>{found.holds ? 'holds' : 'may leave it'}</span>{' '}
            <Said>{found.says}</Said> Room: <Fig figure={found.half} />, eaten: <Fig figure={found.eaten} />.
          </p>
          <div className="eaten" role="img" aria-label={`${found.parts.length} parts of it`}>
            {found.parts.map((p, i) => (
              <span key={p.key} style={{ width: `${(100 * p.figure.value) / full}%`, background: TINTS[i] }} />
            ))}
            <i style={{ left: `${(100 * found.half.value) / full}%` }} />
          </div>
          <ul>
            {found.parts.map((p, i) => (
              <li key={p.key}>
                <i style={{ background: TINTS[i] }} /> {capital(p.figure.name)} <Fig figure={p.figure} />
              </li>
            ))}
          </ul>
        </>
      )}
      <div className="grid2">
        <NumberField
          label={label('uneven_c')}
          kind="temperature_difference"
          value={uneven}
          hint="From a probe at its corners; empty: not known, and not counted"
          onChange={setUneven}
          problem={problemOf(query.error, 'uneven_c')}
        />
        <NumberField
          label={label('swing_c')}
          kind="temperature_difference"
          value={swing}
          hint={query.data?.swing_from ? `Empty: as in “${query.data.swing_from}”` : 'Empty: none was recorded'}
          onChange={setSwing}
          problem={problemOf(query.error, 'swing_c')}
        />
      </div>
    </section>
  )
}
