import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need, type Rig } from '../api/client'
import { Fetched } from '../shared/Fetched'
import { Said } from '../shared/Said'
import type { Numbers } from './ByHand'

/** The schools of tuning by hand as paths, each step rehearsed on this rig's model before it is done. */
export function Schools({ rig, onRehearse }: { rig: Rig; onRehearse: (numbers: Numbers) => void }) {
  const [open, setOpen] = useState(false)
  const schools = useQuery({
    queryKey: ['of', rig.slug, 'schools', rig.revision],
    enabled: open,
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/tuning/schools', { params: { path: { slug: rig.slug } } })),
    retry: false,
  })
  return (
    <details className="fold-out" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>
        <h2>Step by step at the rig</h2>
        <span className="dim"> three schools: what to change, what to watch, when to stop</span>
      </summary>
      {open && (
        <Fetched query={schools}>
          {(found) =>
            found.schools.map((school) => (
              <section key={school.key} className="school">
                <h3>
                  <Said>{school.name}</Said> {!school.fits && <span className="dim small">less for a rig like this one</span>}
                </h3>
                <p className="dim">
                  <Said>{`${school.suits} ${school.ends}`}</Said>
                </p>
                <ol>
                  {school.steps.map((step) => (
                    <li key={step.do}>
                      <b>
                        <Said>{step.do}</Said>
                      </b>{' '}
                      <Said>{step.watch}</Said> <em>Go on when:</em> <Said>{step.until}</Said>{' '}
                      {step.numbers && (
                        <button type="button" className="button quiet" onClick={() => onRehearse(step.numbers!)}>
                          Rehearse
                        </button>
                      )}
                    </li>
                  ))}
                </ol>
              </section>
            ))
          }
        </Fetched>
      )}
    </details>
  )
}
