import { useEffect, useId, useRef, useState } from 'react'
import type { Problem } from '../api/client'
import { usePreferences } from '../shell/preferences'
import { lasting, lastingEntry } from '../units/lasting'
import { said } from '../units/message'
import { Wrong } from './states'

interface Props {
  label: string
  value: number | null
  onChange: (seconds: number | null) => void
  problem?: Problem
  hint?: string
  bare?: boolean
}

/** A length of time as people say it: 90 min, 1.5 h, 1:30. What is typed stays until it can be read. */
export function LastingField({ label, value, onChange, problem, hint, bare }: Props) {
  const id = useId()
  const { unit } = usePreferences()
  const [typed, setTyped] = useState<string | null>(null)
  const [before, setBefore] = useState(value)
  const box = useRef<HTMLInputElement>(null)
  const wrong = typed === null ? '' : lastingEntry(typed, before).wrong
  useEffect(() => box.current?.setCustomValidity(wrong), [wrong])
  const why = wrong ? { field: '', reason: wrong, accepted: '' } : problem
  const input = (
    <input
      id={id}
      ref={box}
      className="num"
      autoComplete="off"
      aria-label={bare ? said(label, unit) : undefined}
      aria-invalid={why ? true : undefined}
      aria-describedby={why || hint ? `${id}-why` : undefined}
      value={typed ?? lasting(value)}
      onFocus={() => {
        setBefore(value)
      }}
      onChange={(e) => {
        setTyped(e.target.value)
        const read = lastingEntry(e.target.value, before)
        if (!read.wrong) onChange(read.value)
      }}
      onBlur={() => !wrong && setTyped(null)}
    />
  )
  return (
    <div className="field">
      {!bare && <label htmlFor={id}>{said(label, unit)}</label>}
      {input}
      {why ? (
        <Wrong problem={why} id={`${id}-why`} />
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
