import { useState } from 'react'
import type { Schemas } from '../api/client'
import { Fig } from '../shared/Fig'
import { usePreferences } from '../shell/preferences'
import { said } from '../units/message'
import { say } from '../units/quantity'
import { Fit } from './Fit'

const VERDICT: Record<string, [string, string]> = {
  supported: ['fine', 'supported'],
  slope_only: ['fault', 'rate only'],
  poor: ['danger', 'does not fit'],
  biased: ['danger', 'biased'],
}

interface Props {
  identified: Schemas['IdentifiedView']
  problem: string
  onAgain: () => void
}

/** The process in one sentence of pressable figures, the verdict, and the fit on demand. */
export function Process({ identified: found, problem, onAgain }: Props) {
  const { unit } = usePreferences()
  const [open, setOpen] = useState(false)
  const [gain, lag, dead, slope] = found.figures
  const besides = (symbol: string) => found.figures.find((f) => f.symbol === symbol)
  const [second, cooling, walls, warm] = [besides('τ₂'), besides('τ_c'), besides('τ_w'), besides('K + K_w')]
  const [holds, stored] = [besides('u_h'), besides('Q')]
  const least = gain?.low != null && gain.high == null ? 'at least ' : ''
  const from = [...new Set(found.fitted.map((f) => f.run_name || found.run_name))]
  const [tone, word] = VERDICT[found.verdict] ?? ['fault', found.verdict]
  return (
    <section aria-label="Process">
      <p className="lead">
        Process found from {from.join(' and ')}: gain {least}
        {gain && <Fig figure={gain} />}, lag {least}
        {lag && <Fig figure={lag} />}, dead time {dead && <Fig figure={dead} />}
        {second && (
          <>
            {' '}
            (of them a second lag of <Fig figure={second} />)
          </>
        )}
        {cooling && (
          <>
            ; it cools with a lag of <Fig figure={cooling} />
          </>
        )}
        {walls && warm && (
          <>
            ; walls with a lag of <Fig figure={walls} /> bring the gain to <Fig figure={warm} />
          </>
        )}
        ; at full power {slope && <Fig figure={slope} />}.
        {holds && stored && found.furnace && (
          <>
            {' '}
            At {say(found.furnace.at_c, 'temperature', unit)} held by <Fig figure={holds} /> of its power, with <Fig figure={stored} />{' '}
            stored in it.
          </>
        )}
      </p>
      <div className="verdict">
        <span className={`badge ${tone}`}>{word}</span>
        <span>
          {said(found.verdict_reason, unit)}{' '}
          <button className="button quiet" aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? 'Hide the fit' : 'See the fit'}
          </button>
          <button className="button quiet" onClick={onAgain}>
            Use another run
          </button>
        </span>
      </div>
      {problem && <p className="notice bad">{said(problem, unit)}</p>}
      {open && <Fit found={found} />}
    </section>
  )
}
