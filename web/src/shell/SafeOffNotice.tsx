import { useEffect, useRef } from 'react'
import { said } from '../units/message'
import { capital } from '../units/quantity'
import { usePreferences } from './preferences'
import type { SafeOff } from './useSafeOff'
import './safeOff.css'

interface Props {
  state: SafeOff
  effect: string
  onPress: () => void
  onClose: () => void
}

/** What became of switching off, readable from across the room. */
export function SafeOffNotice({ state, effect, onPress, onClose }: Props) {
  const { unit } = usePreferences()
  const close = useRef<HTMLButtonElement>(null)
  useEffect(() => {
    if (state.phase !== 'sending') close.current?.focus()
  }, [state.phase])
  return (
    <section
      className={`safe-off ${state.phase}`}
      role="alertdialog"
      aria-labelledby="safe-off-title"
      onKeyDown={(e) => e.key === 'Escape' && onClose()}
    >
      <h2 id="safe-off-title" aria-live="assertive">
        {state.phase === 'sending' && 'Switching off…'}
        {state.phase === 'confirmed' && `${capital(effect)} is off`}
        {state.phase === 'unconfirmed' && 'Not confirmed — open the main switch'}
      </h2>
      <p>
        {state.phase === 'confirmed' &&
          `The controller says so itself, after ${state.seconds.toFixed(1)} s.${state.inBook ? ' Writing is disarmed.' : ''}`}
        {state.phase === 'unconfirmed' && `${said(sentence(state.said), unit)} Whether it is still on is not known.`}
        {!state.inBook && ' It could not be written into the Book.'}
      </p>
      {state.phase !== 'sending' && (
        <div className="row">
          {state.phase === 'unconfirmed' && (
            <button className="button" onClick={onPress}>
              Try again
            </button>
          )}
          <button className="button" ref={close} onClick={onClose}>
            Close
          </button>
        </div>
      )}
    </section>
  )
}

const sentence = (said: string) => said.charAt(0).toUpperCase() + said.slice(1) + (/[.!?]$/.test(said) ? '' : '.')
