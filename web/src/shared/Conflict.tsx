import { usePreferences } from '../shell/preferences'
import { sayField } from '../units/fieldKind'
import { fieldName } from './states'

interface Props {
  mine: Record<string, unknown>
  theirs: Record<string, unknown>
  onTake: (field: string) => void
  onKeep: () => void
}

/** The rig was changed elsewhere while this was typed: both values, field by field, and nothing saved until they were looked at. */
export function Conflict({ mine, theirs, onTake, onKeep }: Props) {
  const { unit } = usePreferences()
  const fields = Object.keys(mine).filter((f) => JSON.stringify(mine[f] ?? null) !== JSON.stringify(theirs[f] ?? null))
  return (
    <section className="notice bad" role="alert" aria-label="Changed in another window">
      <b>This rig was changed in another window since you began here. Nothing is saved until you have looked.</b>
      <table className="plain">
        <thead>
          <tr>
            <th />
            <th>typed here</th>
            <th>in the rig now</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {fields.map((f) => (
            <tr key={f}>
              <td>{fieldName(f)}</td>
              <td className="num" style={{ whiteSpace: 'nowrap' }}>{sayField(f, mine[f], unit)}</td>
              <td className="num" style={{ whiteSpace: 'nowrap' }}>{sayField(f, theirs[f], unit)}</td>
              <td>
                <button type="button" className="button quiet" aria-label={`Take the rig’s ${fieldName(f)}`} onClick={() => onTake(f)}>
                  Take the rig’s
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {!fields.length && <p>What is typed here is what the rig holds now.</p>}
      <button type="button" className="button" onClick={onKeep}>
        I have looked: go on with what is typed here
      </button>
    </section>
  )
}
