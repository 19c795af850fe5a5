import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need, type Rig } from '../api/client'
import { useChange } from '../api/hooks'
import { TextField } from '../shared/fields'
import { Fetched } from '../shared/Fetched'
import { Fig } from '../shared/Fig'
import { Said } from '../shared/Said'
import { Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { day } from '../shared/when'
import { capital, say } from '../units/quantity'

/** What each change brought, by the runs before and after it. */
export function Ledger({ rig }: { rig: Rig }) {
  const { unit } = usePreferences()
  const [open, setOpen] = useState(false)
  const [what, setWhat] = useState('')
  const ledger = useQuery({
    queryKey: ['of', rig.slug, 'ledger', rig.revision],
    enabled: open,
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/tuning/ledger', { params: { path: { slug: rig.slug } } })),
  })
  const tell = useChange(rig.slug, () =>
    need(
      api.POST('/api/v1/rigs/{slug}/tuning/ledger', {
        params: { path: { slug: rig.slug } },
        body: { revision: rig.revision, what, why: '' },
      }),
    ).then(() => setWhat('')),
  )
  return (
    <details className="fold-out" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>
        <h2>What each change brought</h2>
        <span className="dim"> by the runs before and after it</span>
      </summary>
      <form
        className="row"
        onSubmit={(e) => {
          e.preventDefault()
          tell.mutate()
        }}
      >
        <TextField
          label="Something else was changed just now"
          hint="insulation, a filter, the probe moved"
          value={what}
          onChange={setWhat}
        />
        <button className="button" disabled={tell.isPending || !what.trim()}>
          Keep it in the book
        </button>
      </form>
      <Refused error={tell.error} />
      {open && (
        <Fetched query={ledger}>
          {(found) =>
            found.lines.length === 0 ? (
              <p className="dim">No change has a run before it and one after it yet.</p>
            ) : (
              <ol className="ledger">
                {found.lines.map((line) => (
                  <li key={line.changes.map((c) => c.at + c.title).join()}>
                    {line.changes.map((c) => (
                      <p key={c.at + c.title}>
                        <span className="num dim">{day(c.at)}</span> <b>{c.title}</b>{' '}
                        <span className="dim">
                          <Said>{c.values.join('; ')}</Said>
                        </span>
                      </p>
                    ))}
                    <p>
                      <Said>{line.says}</Said>
                    </p>
                    <p className="row">
                      {line.credits.map((c) => (
                        <span key={c.figure.name} className={c.is_told && line.is_attributable ? '' : 'dim'}>
                          <Said>{capital(c.figure.name)}</Said> {c.figure.value > 0 ? '+' : ''}
                          <Fig figure={c.figure} />
                          {c.figure.high != null && ` ± ${say(c.figure.high - c.figure.value, c.figure.kind, unit)}`}
                        </span>
                      ))}
                    </p>
                    <p className="small dim">
                      {line.before.join(', ') || 'no like run'} → {line.after.join(', ')}
                    </p>
                  </li>
                ))}
              </ol>
            )
          }
        </Fetched>
      )}
    </details>
  )
}
