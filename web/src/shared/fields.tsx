import { type ReactNode, useId, useState } from 'react'
import type { Problem, Quantity } from '../api/client'
import { usePreferences } from '../shell/preferences'
import { parsed, shown } from '../units/entry'
import { localise, SYMBOL } from '../units/quantity'

interface Common {
  label: string
  problem?: Problem
  hint?: string
}

function Frame({ label, id, problem, hint, children }: Common & { id: string; children: ReactNode }) {
  const { unit } = usePreferences()
  return (
    <div className="field">
      <label htmlFor={id}>{label}</label>
      {children}
      {problem ? (
        <span className="wrong" id={`${id}-why`}>
          {localise(problem.reason, unit)}. {problem.accepted && `Accepted: ${localise(problem.accepted, unit)}.`}
        </span>
      ) : (
        hint && (
          <span className="small dim" id={`${id}-why`}>
            {localise(hint, unit)}
          </span>
        )
      )}
    </div>
  )
}

interface NumberProps extends Common {
  value: number | null
  onChange: (value: number | null) => void
  kind?: Quantity
  bare?: boolean
}

/** A number in the unit chosen; keeps what is typed until it is left, also when it is not yet a number. */
export function NumberField({ value, onChange, kind, bare, ...frame }: NumberProps) {
  const id = useId()
  const { unit } = usePreferences()
  const [typed, setTyped] = useState<string | null>(null)
  const symbol = kind === 'temperature' || kind === 'temperature_difference' ? `°${unit}` : kind ? (SYMBOL[kind] ?? '') : ''
  const input = (
    <input
      id={id}
      className="num"
      inputMode="decimal"
      autoComplete="off"
      aria-label={bare ? frame.label : undefined}
      aria-invalid={frame.problem ? true : undefined}
      aria-describedby={frame.problem || frame.hint ? `${id}-why` : undefined}
      value={typed ?? shown(value, kind, unit)}
      onChange={(e) => {
        setTyped(e.target.value)
        onChange(parsed(e.target.value, kind, unit))
      }}
      onBlur={() => setTyped(null)}
    />
  )
  const body = (
    <span className="with-unit">
      {input}
      {symbol && <span className="dim">{symbol}</span>}
    </span>
  )
  return bare ? <span className="field">{body}</span> : <Frame id={id} {...frame}>{body}</Frame>
}

interface TextProps extends Common {
  value: string
  onChange: (value: string) => void
  placeholder?: string
}

export function TextField({ value, onChange, placeholder, ...frame }: TextProps) {
  const id = useId()
  return (
    <Frame id={id} {...frame}>
      <input
        id={id}
        value={value}
        placeholder={placeholder}
        autoComplete="off"
        aria-invalid={frame.problem ? true : undefined}
        aria-describedby={frame.problem || frame.hint ? `${id}-why` : undefined}
        onChange={(e) => onChange(e.target.value)}
      />
    </Frame>
  )
}

interface SelectProps<T extends string> extends Common {
  value: T
  options: readonly (readonly [T, string])[]
  onChange: (value: T) => void
  bare?: boolean
}

export function SelectField<T extends string>({ value, options, onChange, bare, ...frame }: SelectProps<T>) {
  const id = useId()
  const select = (
    <select id={id} aria-label={bare ? frame.label : undefined} aria-invalid={frame.problem ? true : undefined} value={value} onChange={(e) => onChange(e.target.value as T)}>
      {options.map(([key, words]) => (
        <option key={key} value={key}>
          {words}
        </option>
      ))}
    </select>
  )
  return bare ? <span className="field">{select}</span> : <Frame id={id} {...frame}>{select}</Frame>
}
