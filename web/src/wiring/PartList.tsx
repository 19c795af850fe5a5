import { Link } from 'react-router'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { useLibrary } from '../library/Library'
import { SelectField } from '../shared/fields'
import { Refused } from '../shared/states'

/** Every part of the rig, and which of the workshop's own parts it is. */
export function PartList({ rig, wiring }: { rig: Rig; wiring: Schemas['WiringView'] }) {
  const { data: library } = useLibrary()
  const fit = useChange(rig.slug, ({ name, own }: { name: string; own: number | null }) =>
    need(api.PUT('/api/v1/rigs/{slug}/wiring/parts/{name}', { params: { path: { slug: rig.slug, name } }, body: { revision: rig.revision, own } })),
  )
  const own = library?.own ?? []
  return (
    <section style={{ marginTop: 18 }}>
      <div className="between">
        <h2>Parts</h2>
        <Link to="/library">Your own parts and their terminal numbers</Link>
      </div>
      <table className="plain">
        <tbody>
          {wiring.parts.map((p) => {
            const fitting = own.filter((o) => o.kind === p.kind)
            return (
              <tr key={p.name}>
                <td className="num">{p.name}</td>
                <td>{p.title}</td>
                <td>{p.rating}</td>
                <td className="num small">{Object.entries(p.numbers).map(([t, n]) => `${t}→${n}`).join(', ')}</td>
                <td style={{ width: 210 }}>
                  {fitting.length > 0 && (
                    <SelectField
                      bare
                      label={`${p.name} is`}
                      value={String(fitting.find((o) => o.title === p.own)?.id ?? '')}
                      options={[['', 'generic'], ...fitting.map((o) => [String(o.id), o.title] as const)]}
                      onChange={(id) => fit.mutate({ name: p.name, own: id ? Number(id) : null })}
                    />
                  )}
                </td>
              </tr>
            )
          })}
        </tbody>
      </table>
      <Refused error={fit.error} />
    </section>
  )
}
