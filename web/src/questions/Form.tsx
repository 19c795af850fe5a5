import type { Problem, Quantity } from '../api/client'
import { Said } from '../shared/Said'
import { LastingField } from '../shared/LastingField'
import { NumberField, SelectField, TextField } from '../shared/fields'
import { Segments } from '../shared/Segments'
import { Wrong } from '../shared/states'
import { asked, type Field, type Question, type Row, type Values } from './data'
import './questions.css'

type ProblemAt = (field: string) => Problem | undefined

interface Props {
  question: Pick<Question, 'fields' | 'rows'>
  values: Values
  /** What is wrong at one of its fields. */
  problem: ProblemAt
  /** Its times are long ones: 90 min rather than 5400 s. */
  hours?: boolean
  onChange: (values: Values) => void
}

/** The form a question declares: its fields, then its list. */
export function Form({ question, values, problem, hours, onChange }: Props) {
  const rows = question.rows
  return (
    <div className="ask-form">
      <div className="ask-fields">
        {question.fields
          .filter((f) => asked(f, values, question.fields))
          .map((f) => (
            <Input
              key={f.name}
              field={f}
              value={values[f.name]}
              problem={problem(f.name)}
              hours={hours}
              onChange={(v) => onChange({ ...values, [f.name]: v })}
            />
          ))}
      </div>
      {rows && (
        <List
          rows={rows}
          value={values[rows.name] as Row[]}
          problem={problem}
          hours={hours}
          onChange={(v) => onChange({ ...values, [rows.name]: v })}
        />
      )}
    </div>
  )
}

interface InputProps {
  field: Field
  value: unknown
  problem: Problem | undefined
  bare?: boolean
  hours?: boolean
  onChange: (value: unknown) => void
}

function Input({ field, value, problem, bare, hours, onChange }: InputProps) {
  if (field.sort === 'choice')
    return (
      <SelectField
        bare={bare}
        label={field.label}
        value={String(value)}
        options={field.options.map((o) => [o.value, o.words] as const)}
        onChange={onChange}
        problem={problem}
      />
    )
  if (field.sort === 'flag')
    return bare ? (
      <label className="tick">
        <input type="checkbox" checked={value === true} onChange={(e) => onChange(e.target.checked)} /> <Said>{field.label}</Said>
      </label>
    ) : (
      <div className="field">
        <span className="label">
          <Said>{field.label}</Said>
        </span>
        <Segments
          label={field.label}
          value={value === true ? 'yes' : 'no'}
          options={[
            ['yes', 'Yes'],
            ['no', 'No'],
          ]}
          onChange={(v) => onChange(v === 'yes')}
        />
      </div>
    )
  if (field.sort === 'text')
    return bare ? (
      <span className="field">
        <input aria-label={field.label} placeholder={field.label} value={String(value ?? '')} onChange={(e) => onChange(e.target.value)} />
      </span>
    ) : (
      <TextField label={field.label} value={String(value ?? '')} onChange={onChange} problem={problem} hint={field.hint} />
    )
  if (field.kind === 'time' && hours)
    return (
      <LastingField
        bare={bare}
        label={field.label}
        value={value as number | null}
        onChange={onChange}
        problem={problem}
        hint={field.hint}
      />
    )
  return (
    <NumberField
      bare={bare}
      label={field.label}
      kind={(field.kind ?? undefined) as Quantity | undefined}
      value={value as number | null}
      onChange={onChange}
      problem={problem}
      hint={field.hint}
    />
  )
}

function List({
  rows,
  value,
  problem,
  hours,
  onChange,
}: {
  rows: NonNullable<Question['rows']>
  value: Row[]
  problem: ProblemAt
  hours?: boolean
  onChange: (rows: Row[]) => void
}) {
  const change = (i: number, part: Row) => onChange(value.map((r, k) => (k === i ? { ...r, ...part } : r)))
  const last = value.at(-1)
  const move = (i: number, by: number) => {
    const moved = [...value]
    const [row] = moved.splice(i, 1)
    moved.splice(i + by, 0, row!)
    onChange(moved)
  }
  const whole = problem(rows.name)
  return (
    <div className="ask-rows">
      <h2>
        <Said>{rows.label}</Said>
      </h2>
      {value.length > 0 && (
        <div className="row-heads" aria-hidden="true">
          {rows.fields.map((f) => (
            <span key={f.name}>{f.sort === 'flag' ? '' : <Said>{f.label}</Said>}</span>
          ))}
          <span />
        </div>
      )}
      <ol>
        {value.map((row, i) => (
          <li key={i}>
            {rows.fields.map((f) => (
              <Input
                key={f.name}
                bare
                field={f.sort === 'flag' ? f : { ...f, label: `${f.label} (${i + 1})` }}
                value={row[f.name]}
                problem={problem(`${rows.name}[${i}].${f.name}`)}
                hours={hours}
                onChange={(v) => change(i, { [f.name]: v })}
              />
            ))}
            <span className="row-tools">
              <button className="button quiet" aria-label={`Move row ${i + 1} up`} disabled={i === 0} onClick={() => move(i, -1)}>
                ↑
              </button>
              <button
                className="button quiet"
                aria-label={`Remove row ${i + 1}`}
                disabled={value.length <= rows.least}
                onClick={() => onChange(value.filter((_, k) => k !== i))}
              >
                Remove
              </button>
            </span>
            {rows.fields.map((f) => {
              const wrong = problem(`${rows.name}[${i}].${f.name}`)
              return wrong && <Wrong key={f.name} problem={wrong} />
            })}
          </li>
        ))}
      </ol>
      {whole && <Wrong problem={whole} />}
      <button className="button" disabled={value.length >= rows.most} onClick={() => onChange([...value, { ...last! }])}>
        One more row
      </button>
    </div>
  )
}
