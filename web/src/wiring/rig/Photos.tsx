import { api, need, type Rig } from '../../api/client'
import { useChange } from '../../api/hooks'
import { Refused } from '../../shared/states'
import type { List } from '../edits'

/** Photographs at the terminals looked at, and a place to add one. */
export function Photos({ rig, wiring, terminals }: { rig: Rig; wiring: List; terminals: string[] }) {
  const params = { path: { slug: rig.slug } }
  const add = useChange(rig.slug, ({ file, terminal }: { file: File; terminal: string }) => {
    const body = new FormData()
    body.append('file', file)
    body.append('terminal', terminal)
    body.append('revision', String(rig.revision))
    return need(
      api.POST('/api/v1/rigs/{slug}/wiring/photos', { params, body: body as never, bodySerializer: (b: unknown) => b as FormData }),
    )
  })
  const remove = useChange(rig.slug, (id: number) =>
    need(
      api.DELETE('/api/v1/rigs/{slug}/wiring/photos/{number}', {
        params: { path: { slug: rig.slug, number: id }, query: { revision: rig.revision } },
      }),
    ),
  )
  const shown = wiring.photos.filter((p) => terminals.includes(p.terminal))
  return (
    <section className="photos" aria-label="Photos at these terminals">
      {shown.map((p) => (
        <figure key={p.id}>
          <a href={`/api/v1/rigs/${rig.slug}/wiring/photos/${p.id}`} target="_blank" rel="noreferrer">
            <img src={`/api/v1/rigs/${rig.slug}/wiring/photos/${p.id}`} alt={`At ${p.terminal}`} />
          </a>
          <figcaption>
            {p.terminal}{' '}
            <button className="button quiet" aria-label={`Remove the photo at ${p.terminal}`} onClick={() => remove.mutate(p.id)}>
              Remove
            </button>
          </figcaption>
        </figure>
      ))}
      {terminals.map((t) => (
        <label key={t} className="button photo-add">
          Photo at {t}
          <input
            type="file"
            accept="image/jpeg,image/png"
            aria-label={`Photo at ${t}`}
            onChange={(e) => e.target.files?.[0] && add.mutate({ file: e.target.files[0], terminal: t })}
          />
        </label>
      ))}
      <Refused error={add.error ?? remove.error} />
    </section>
  )
}
