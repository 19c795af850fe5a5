import type { Schemas } from '../api/client'
import { NumberField, SelectField } from '../shared/fields'
import { problemOf } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { useWords } from '../units/fields'
import { said } from '../units/message'

export type Mapping = Schemas['MappingRequest']

/** How a log is to be read, as guessed. */
export const mappingOf = (guess: Schemas['Guess']): Mapping => ({
  ...guess,
  delimiter: guess.delimiter as Mapping['delimiter'],
  columns: Object.fromEntries(guess.columns.flatMap((c, i) => (c.role ? [[c.role, i]] : []))),
})

interface WritingProps {
  guess: Schemas['Guess']
  /** Not text: its cells are not divided by marks. */
  table?: boolean
  mapping: Mapping
  error: unknown
  onReread: (changed: Partial<Mapping>) => void
  onChange: (mapping: Mapping) => void
}

/** How the file is written: as guessed, with what it does not say beside the field, to be corrected. */
export function Writing({ guess, table, mapping, error, onReread, onChange }: WritingProps) {
  const { label, choices } = useWords()
  const { unit } = usePreferences()
  const { preamble, doubts, first_line } = guess
  const asked = (name: string) => doubts.find((d) => d.field === name)?.reason
  const select = (name: 'delimiter' | 'decimal' | 'time_format' | 'unit' | 'output_scale', change: (value: string) => void) => (
    <SelectField
      label={label(name)}
      value={mapping[name] ?? ''}
      options={mapping[name] ? choices(name) : [['', name === 'output_scale' ? 'as its values say' : 'choose…'], ...choices(name)]}
      onChange={change}
      problem={problemOf(error, name) ?? (!mapping[name] && asked(name) ? { field: name, reason: asked(name)!, accepted: '' } : undefined)}
      hint={asked(name)}
    />
  )
  const others = doubts.filter((d) => d.field.startsWith('columns.'))
  return (
    <>
      <div className="grid2 writing">
        {!table && select('delimiter', (v) => onReread({ delimiter: v as Mapping['delimiter'] }))}
        {!table && select('decimal', (decimal) => onReread({ decimal }))}
        <NumberField
          label={label('skip')}
          value={mapping.skip ?? 0}
          onChange={(skip) => skip != null && skip !== mapping.skip && onReread({ skip })}
          problem={problemOf(error, 'skip')}
          hint={table ? undefined : `first row: line ${first_line}`}
        />
        {select('time_format', (time_format) => onChange({ ...mapping, time_format }))}
        {select('unit', (said) => onChange({ ...mapping, unit: said }))}
        {'output' in mapping.columns && select('output_scale', (output_scale) => onChange({ ...mapping, output_scale }))}
      </div>
      {preamble.length > 0 && (
        <details>
          <summary>
            {preamble.length === 1 ? '1 line before the table is' : `${preamble.length} lines before the table are`} not read
          </summary>
          <pre className="preamble">{preamble.join('\n')}</pre>
        </details>
      )}
      {others.map((d) => (
        <p key={d.field} className="small">
          {said(d.reason, unit)}
        </p>
      ))}
    </>
  )
}

interface PreviewProps {
  guess: Schemas['Guess']
  mapping: Mapping
  onChange: (mapping: Mapping) => void
}

/** The first rows, with what each column is taken for above it. */
export function Preview({ guess, mapping, onChange }: PreviewProps) {
  const { choices } = useWords()
  const roleOf = (i: number) => Object.entries(mapping.columns).find(([, at]) => at === i)?.[0] ?? ''
  const assign = (i: number, role: string) => {
    const columns = Object.fromEntries(Object.entries(mapping.columns).filter(([r, at]) => r !== role && at !== i))
    if (role) columns[role] = i
    onChange({ ...mapping, columns })
  }
  const rows = Math.max(...guess.columns.map((c) => c.values.length))
  return (
    <div className="preview">
      <table className="plain">
        <thead>
          <tr>
            {guess.columns.map((c, i) => (
              <th key={i}>
                {c.name}
                <SelectField
                  bare
                  label={`Column ${c.name} is`}
                  value={roleOf(i)}
                  options={[['', 'not used'], ...choices('columns')]}
                  onChange={(role) => assign(i, role)}
                />
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {Array.from({ length: rows }, (_, r) => (
            <tr key={r}>
              {guess.columns.map((c, i) => (
                <td key={i}>{c.values[r]}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
