import { Link } from 'react-router'
import { type Rig } from '../api/client'
import { useKeyed } from '../menus/data'
import { Said } from '../shared/Said'

/** The numbers as they are keyed into this rig's controller: its own codes, its own way of counting, its last digit. */
export function AsKeyed({ rig, values }: { rig: Rig; values: Record<string, unknown> }) {
  const data = useKeyed(rig, values)
  if (!data) return null
  if (!data.controller)
    return (
      <p className="dim small">
        Which controller is it? <Link to={`/rigs/${rig.slug}/setup`}>Say so in Set-up</Link>, and these numbers stand here in its own codes
        and units.
      </p>
    )
  const { pages, text, lost } = data.keyed
  return (
    <section className="as-keyed" aria-label="In this controller">
      <span className="dim">
        In <Said>{data.controller}</Said>:
      </span>
      {pages.map((page) => (
        <span key={page.code} title={page.title}>
          <b className="num">{page.code}</b> <span className="num">{page.shows}</span> <span className="dim small">{page.title}</span>
        </span>
      ))}
      {text && <pre>{text}</pre>}
      {lost.map((words) => (
        <p key={words} className="small" style={{ color: 'var(--fault)' }}>
          <Said>{words}</Said>
        </p>
      ))}
    </section>
  )
}
