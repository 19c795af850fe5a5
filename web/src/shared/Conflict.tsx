import { same, type Draft } from '../api/kept'
import { useWords } from '../units/fields'

interface Props<T> {
  draft: Draft<T>
  /** How a field and its value are said, where the form knows better than their names. */
  label?: (field: string) => string
  says?: (field: string, value: unknown) => string
}

/** The rig was changed elsewhere while this was typed: both values, field by field, and nothing saved until they were looked at. */
export function Conflict<T extends object>({ draft, label, says }: Props<T>) {
  const words = useWords()
  if (!draft.theirs) return null
  const theirs = draft.theirs
  const fields = (Object.keys(theirs) as (keyof T & string)[]).filter((f) => !same(draft.values[f], theirs[f]))
  const called = label ?? words.label
  const said = says ?? words.says
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
              <td>{called(f)}</td>
              <td className="num">{said(f, draft.values[f])}</td>
              <td className="num">{said(f, theirs[f])}</td>
              <td>
                <button
                  type="button"
                  className="button quiet"
                  aria-label={`Take the rig’s ${called(f)}`}
                  onClick={() => draft.set({ [f]: theirs[f] } as unknown as Partial<T>)}
                >
                  Take the rig’s
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <button type="button" className="button" onClick={draft.rebase}>
        I have looked: go on with what is typed here
      </button>
    </section>
  )
}
