import { useMutation, useQuery } from '@tanstack/react-query'
import { api, need, type Rig } from '../api/client'
import { Fetched } from '../shared/Fetched'
import { Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { said } from '../units/message'

/** What goes with the rig when somebody else uses it: what is missing, safe use, and all of it as one PDF. */
export function Handover({ rig }: { rig: Rig }) {
  const { unit } = usePreferences()
  const params = { path: { slug: rig.slug } }
  const query = useQuery({
    queryKey: ['of', rig.slug, 'handover'],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/handover', { params })),
  })
  const pack = useMutation({
    mutationFn: async () => {
      const wiring = await need(api.GET('/api/v1/rigs/{slug}/wiring', { params }))
      const [{ layout }, { geometry }, { saveBlob }] = await Promise.all([
        import('../wiring/diagram/layout'),
        import('../wiring/diagram/graph'),
        import('../wiring/diagram/saveDrawing'),
      ])
      const placed = wiring.wires.length ? await layout(wiring, wiring.drawings) : []
      const body = { paper: 'A4', unit, drawings: placed.map((p) => geometry(p, wiring)) }
      const file = (await need(api.POST('/api/v1/rigs/{slug}/handover.pdf', { params, body, parseAs: 'blob' }))) as unknown as Blob
      saveBlob(file, `${rig.slug}-handover.pdf`)
    },
  })
  return (
    <div className="stack" style={{ maxWidth: 720, marginTop: 8 }}>
      <Fetched query={query}>
        {(view) => (
          <>
            {view.lacking.length > 0 ? (
              <div className="notice bad" role="status">
                <b>Not ready to be handed over.</b> The first page will say so:
                <ul>
                  {view.lacking.map((w) => (
                    <li key={w}>{said(w, unit)}</li>
                  ))}
                </ul>
              </div>
            ) : (
              <p role="status">
                Nothing the pack lives on is missing, and Rellux has no danger or fault open. Whether it is safe is judged by whoever built
                it.
              </p>
            )}
            <div className="row">
              <button className="button main" disabled={pack.isPending} onClick={() => pack.mutate()}>
                {pack.isPending ? 'Making it…' : 'Make the pack'}
              </button>
              <span className="small dim">
                One PDF: purpose, safe use, guards and who proved them, settings, parts, wires, diagram, due dates, an empty log.
              </span>
            </div>
            <Refused error={pack.error} />
            <h2>Safe use</h2>
            {view.use.map((part) => (
              <section key={part.title} aria-label={part.title}>
                <b>{part.title}</b>
                <ul>
                  {part.lines.map((line) => (
                    <li key={line}>{said(line, unit)}</li>
                  ))}
                </ul>
              </section>
            ))}
          </>
        )}
      </Fetched>
    </div>
  )
}
