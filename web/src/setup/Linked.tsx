import { Link } from 'react-router'
import type { Rig, Schemas } from '../api/client'
import { useLink } from '../runs/data'
import { usePreferences } from '../shell/preferences'
import { type Values, wordsOf } from './ParameterTable'

interface Props {
  rig: Rig
  parameters: Schemas['ParameterView'][]
  /** What the controller says goes into the sheet that is being typed. */
  onTake: (values: Values) => void
}

/** Where the linked controller holds something else than the sheet says. */
export function Linked({ rig, parameters, onTake }: Props) {
  const { unit } = usePreferences()
  const link = useLink(rig.slug)
  const apart = link.data?.differences ?? []
  if (!apart.length) return null
  const named = (name: string) => parameters.find((p) => p.name === name)
  return (
    <section aria-label="What the linked controller holds">
      <h2>Over the link it holds something else</h2>
      <table className="plain">
        <tbody>
          {apart.map((d) => (
            <tr key={d.name}>
              <td>{d.title}</td>
              <td className="right">
                holds <strong>{wordsOf(named(d.name), d.controller, unit)}</strong>
              </td>
              <td className="right">sheet {wordsOf(named(d.name), d.sheet, unit)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="row">
        <button className="button" onClick={() => onTake(Object.fromEntries(apart.map((d) => [d.name, d.controller])) as Values)}>
          Take what it holds
        </button>
        <Link className="button quiet" to={`/rigs/${rig.slug}/runs`}>
          Send the sheet to it
        </Link>
      </div>
    </section>
  )
}
