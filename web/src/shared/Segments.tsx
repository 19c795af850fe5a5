interface Props<T extends string> {
  label: string
  value: T | null
  options: readonly (readonly [T, string])[]
  onChange: (value: T) => void
}

/** One of a few, all visible. */
export function Segments<T extends string>({ label, value, options, onChange }: Props<T>) {
  return (
    <div className="segments" role="radiogroup" aria-label={label}>
      {options.map(([key, words]) => (
        <button key={key} type="button" role="radio" aria-checked={key === value} onClick={() => onChange(key)}>
          {words}
        </button>
      ))}
    </div>
  )
}
