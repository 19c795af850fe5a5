import { Fragment } from 'react'
import type { Quantity, Schemas } from '../api/client'
import { NumberField, SelectField } from '../shared/fields'
import { problemOf } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { useShow } from '../shell/reason'
import { say } from '../units/quantity'

type Parameter = Schemas['ParameterView']
export type Values = Record<string, number | string | null>

interface Props {
  parameters: Parameter[]
  values: Values
  onChange: (name: string, value: number | string | null) => void
  error: unknown
}

export function wordsOf(p: Parameter | undefined, value: unknown, unit: 'C' | 'F'): string {
  if (value == null) return '–'
  if (!p || typeof value === 'string') return p?.choices.find(([k]) => k === value)?.[1] ?? String(value)
  return say(Number(value), p.kind as Quantity | null, unit)
}

export function ParameterTable({ parameters, values, onChange, error }: Props) {
  const { unit } = usePreferences()
  const groups = [...new Set(parameters.map((p) => p.group))]
  return (
    <table className="plain sheet">
      <thead>
        <tr>
          <th>Parameter</th>
          <th className="right">Proposed</th>
          <th className="right">In the controller</th>
        </tr>
      </thead>
      <tbody>
        {groups.map((group) => (
          <Fragment key={group}>
            <tr className="group">
              <td colSpan={3}>{group}</td>
            </tr>
            {parameters
              .filter((p) => p.group === group)
              .map((p) => (
                <Row
                  key={p.name}
                  parameter={p}
                  value={values[p.name] ?? null}
                  active={!p.applies_in.length || p.applies_in.includes(String(values.mode))}
                  unit={unit}
                  onChange={onChange}
                  error={error}
                />
              ))}
          </Fragment>
        ))}
      </tbody>
    </table>
  )
}

interface RowProps {
  parameter: Parameter
  value: number | string | null
  active: boolean
  unit: 'C' | 'F'
  onChange: Props['onChange']
  error: unknown
}

function Row({ parameter: p, value, active, unit, onChange, error }: RowProps) {
  const show = useShow()
  const problem = problemOf(error, p.name)
  const proposed = wordsOf(p, p.proposed, unit)
  const differs = value !== p.proposed && active
  return (
    <tr className={`${active ? '' : 'off'} ${differs ? 'differs' : ''}`}>
      <td>
        {p.title}
        {!active && <span className="small">, not in this mode</span>}
      </td>
      <td className="right">
        <button
          className="fig"
          onClick={() => show({ note: { title: p.title, value: proposed, text: `${p.reason} ${p.meaning}` } })}
          aria-label={`${p.title} proposed: ${proposed}; why`}
        >
          {proposed}
        </button>
      </td>
      <td>
        {p.choices.length ? (
          <SelectField
            bare
            label={p.title}
            value={String(value ?? '')}
            options={p.choices as [string, string][]}
            onChange={(v) => onChange(p.name, v)}
            problem={problem}
          />
        ) : (
          <NumberField
            bare
            label={p.title}
            kind={p.kind as Quantity}
            value={typeof value === 'number' ? value : null}
            onChange={(v) => onChange(p.name, v)}
            problem={problem}
          />
        )}
      </td>
    </tr>
  )
}
