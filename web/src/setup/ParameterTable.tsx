import { Fragment, useState } from 'react'
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

const applies = (p: Parameter, values: Values, but?: string) =>
  p.applies.every((a) => a.name === but || a.values.includes(String(values[a.name] ?? a.values[0])))
/** What is set on every controller stands open; the rest is folded as long as it is as proposed. */
const OPEN = ['Input', 'Control', 'Limits', 'On/off', 'PID', 'Compressor', 'Fire']

export function ParameterTable({ parameters, values, onChange, error }: Props) {
  const { unit } = usePreferences()
  const [all, setAll] = useState(false)
  const [turned, setTurned] = useState<Record<string, boolean>>({})
  const differs = (p: Parameter) => values[p.name] !== p.proposed && applies(p, values)
  const here = parameters.filter((p) => applies(p, values, 'mode') && (all || p.wanted_here || differs(p) || problemOf(error, p.name)))
  const hidden = parameters.filter((p) => !p.wanted_here).length
  const groups = [...new Set(here.map((p) => p.group))]
  return (
    <>
      <table className="plain sheet">
        <thead>
          <tr>
            <th>Parameter</th>
            <th className="right">Proposed</th>
            <th className="right">In the controller</th>
          </tr>
        </thead>
        <tbody>
          {groups.map((group) => {
            const rows = here.filter((p) => p.group === group)
            const other = rows.filter(differs).length
            const wrong = rows.some((p) => problemOf(error, p.name))
            const open = wrong || (turned[group] ?? (OPEN.includes(group) || other > 0))
            return (
              <Fragment key={group}>
                <tr className="group">
                  <td colSpan={3}>
                    <button className="fold" aria-expanded={open} onClick={() => setTurned({ ...turned, [group]: !open })}>
                      <span aria-hidden>{open ? '▾' : '▸'}</span> {group}
                      {!open && (
                        <span className="small dim">
                          : {rows[0]!.title === group ? '' : `${rows[0]!.title} `}
                          {wordsOf(rows[0], values[rows[0]!.name], unit)},{' '}
                          {other ? `${other} not as proposed` : rows.length > 1 ? `all ${rows.length} as proposed` : 'as proposed'}
                        </span>
                      )}
                    </button>
                  </td>
                </tr>
                {open &&
                  rows.map((p) => (
                    <Row
                      key={p.name}
                      parameter={p}
                      value={values[p.name] ?? null}
                      active={applies(p, values)}
                      unit={unit}
                      onChange={onChange}
                      error={error}
                    />
                  ))}
              </Fragment>
            )
          })}
        </tbody>
      </table>
      {hidden > 0 && (
        <button className="button quiet" onClick={() => setAll(!all)}>
          {all ? 'Only what this controller has' : `${hidden} more that this controller has no page for`}
        </button>
      )}
    </>
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
