import { useId } from 'react'
import type { Problem } from '../../api/client'
import { Wrong } from '../../shared/states'
import type { List } from '../edits'

interface Props {
  label: string
  value: string
  wiring: List
  /** The part whose first terminal is shown as how one is written. */
  like?: number
  problem?: Problem
  onChange: (value: string) => void
}

/** A terminal, typed as it is written; the browser completes it, with the number on the user's own part beside it. */
export function Terminal({ label, value, wiring, like = 0, problem, onChange }: Props) {
  const id = useId()
  const example = wiring.parts[like]
  return (
    <div className="field">
      <label htmlFor={id}>{label}</label>
      <input
        id={id}
        className="num"
        list={`${id}-list`}
        autoComplete="off"
        value={value}
        placeholder={example && `${example.name}.${example.terminals[0]?.name}`}
        aria-invalid={problem ? true : undefined}
        onChange={(e) => onChange(e.target.value)}
      />
      <datalist id={`${id}-list`}>
        {wiring.parts.flatMap((p) =>
          p.terminals.map((t) => (
            <option key={`${p.name}.${t.name}`} value={`${p.name}.${t.name}`}>
              {[p.own || p.title, p.numbers[t.name]].filter(Boolean).join(', ')}
            </option>
          )),
        )}
      </datalist>
      {problem && <Wrong problem={problem} />}
    </div>
  )
}
