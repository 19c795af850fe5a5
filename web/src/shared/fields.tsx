import { type ReactNode, useEffect, useId, useRef, useState } from 'react'
import type { Problem, Quantity } from '../api/client'
import { usePreferences } from '../shell/preferences'
import { entry, shown } from '../units/entry'
import { said } from '../units/message'
import { SYMBOL } from '../units/quantity'
import { Wrong } from './states'

interface Common {
  label: string
  problem?: Problem
  hint?: string
}

function Frame({ label, id, problem, hint, children }: Common & { id: string; children: ReactNode }) {
  const { unit } = usePreferences()
  return (
    <div className="field">
      <label htmlFor={id}>{said(label, unit)}</label>
      {children}
      {problem ? (
        <Wrong problem={problem} id={`${id}-why`} />
      ) : (
        hint && (
          <span className="small dim" id={`${id}-why`}>
            {said(hint, unit)}
          </span>
        )
      )}
    </div>
  )
}

interface NumberProps extends Common {
  value: number | null
  /** ``null`` for an empty field and for one that cannot be read; ``wrong`` tells the two apart. */
  onChange: (value: number | null, wrong: boolean) => void
  kind?: Quantity
  bare?: boolean
}

/**
 * A number in the unit chosen. What is typed stays until it can be read: it is never emptied, and a form is not sent while it
 * stands. Where the number read looks different from what was typed, it is said beside the field.
 */
export function NumberField({ value, onChange, kind, bare, ...frame }: NumberProps) {
  const id = useId()
  const { unit } = usePreferences()
  const [typed, setTyped] = useState<string | null>(null)
  const box = useRef<HTMLInputElement>(null)
  const read = typed === null ? null : entry(typed, kind, unit)
  const replaced = !!read?.wrong && value != null && !Number.isNaN(value)
  const wrong = replaced ? '' : (read?.wrong ?? '')
  useEffect(() => box.current?.setCustomValidity(wrong), [wrong])
  const degrees = kind === 'temperature' || kind === 'temperature_difference'
  const symbol = degrees ? `°${unit}` : kind === 'temperature_rate' ? `°${unit}/min` : kind ? (SYMBOL[kind] ?? '') : ''
  const problem = wrong ? { field: '', reason: wrong, accepted: '' } : frame.problem
  const input = (
    <input
      id={id}
      ref={box}
      className="num"
      inputMode="decimal"
      autoComplete="off"
      aria-label={bare ? said(frame.label, unit) : undefined}
      aria-invalid={problem ? true : undefined}
      aria-describedby={problem || frame.hint ? `${id}-why` : undefined}
      value={typed === null || replaced ? shown(value, kind, unit) : typed}
      onChange={(e) => {
        setTyped(e.target.value)
        const now = entry(e.target.value, kind, unit)
        onChange(now.value, now.wrong !== '')
      }}
      onBlur={() => !wrong && setTyped(null)}
    />
  )
  const body = (
    <span className="with-unit">
      {input}
      {symbol && <span className="dim">{symbol}</span>}
      {read?.says && <span className="small dim">{read.says}</span>}
    </span>
  )
  if (!bare)
    return (
      <Frame id={id} {...frame} problem={problem}>
        {body}
      </Frame>
    )
  return (
    <span className="field">
      {body}
      {wrong && (
        <span className="wrong" id={`${id}-why`}>
          {wrong}
        </span>
      )}
    </span>
  )
}

interface TextProps extends Common {
  value: string
  onChange: (value: string) => void
  placeholder?: string
}

export const TextField = (props: TextProps) => <Typed {...props} />

/** A password: never shown, and not offered to be kept by the browser. */
export const SecretField = (props: TextProps) => <Typed {...props} secret />

function Typed({ value, onChange, placeholder, secret, ...frame }: TextProps & { secret?: boolean }) {
  const id = useId()
  return (
    <Frame id={id} {...frame}>
      <input
        id={id}
        type={secret ? 'password' : 'text'}
        value={value}
        placeholder={placeholder}
        autoComplete={secret ? 'new-password' : 'off'}
        aria-invalid={frame.problem ? true : undefined}
        aria-describedby={frame.problem || frame.hint ? `${id}-why` : undefined}
        onChange={(e) => onChange(e.target.value)}
      />
    </Frame>
  )
}

interface ListProps extends Common {
  value: string[]
  onChange: (value: string[]) => void
}

/** Words with commas between. What is typed stays as it is while it is being typed. */
export function ListField({ value, onChange, ...frame }: ListProps) {
  const [typed, setTyped] = useState<string | null>(null)
  const words = (text: string) =>
    text
      .split(',')
      .map((w) => w.trim())
      .filter(Boolean)
  const shows = typed !== null && words(typed).join() === value.join() ? typed : value.join(', ')
  return (
    <TextField
      {...frame}
      value={shows}
      onChange={(text) => {
        setTyped(text)
        onChange(words(text))
      }}
    />
  )
}

interface DateProps extends Common {
  /** ``2026-11-27``, or with ``time`` ``2026-11-27T09:30``, by the clock on the wall; empty for none. */
  value: string
  onChange: (value: string) => void
  time?: boolean
}

export function DateField({ value, onChange, time, ...frame }: DateProps) {
  const id = useId()
  return (
    <Frame id={id} {...frame}>
      <input
        id={id}
        type={time ? 'datetime-local' : 'date'}
        value={value}
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
  const { unit } = usePreferences()
  const select = (
    <select
      id={id}
      aria-label={bare ? said(frame.label, unit) : undefined}
      aria-invalid={frame.problem ? true : undefined}
      value={value}
      onChange={(e) => onChange(e.target.value as T)}
    >
      {options.map(([key, words]) => (
        <option key={key} value={key}>
          {said(words, unit)}
        </option>
      ))}
    </select>
  )
  return bare ? (
    <span className="field">{select}</span>
  ) : (
    <Frame id={id} {...frame}>
      {select}
    </Frame>
  )
}
