import { useRef } from 'react'
import type { Schemas } from '../api/client'
import { useWidth } from '../shared/useWidth'

type Stage = Schemas['ProvingStageView']

const RISE = 14
const HIGH = 96

/** Stages as stairs: what is signed is solid, what is voided or failed is marked, what is in hand stands out. */
export function Staircase({ stages, at, onPick }: { stages: Stage[]; at: number; onPick: (stage: number) => void }) {
  const ref = useRef<HTMLDivElement>(null)
  const width = useWidth(ref)
  const narrow = width < 640
  const rise = narrow ? 7 : RISE
  const tread = Math.max(width / stages.length, 36)
  return (
    <div ref={ref} className="staircase" role="group" aria-label="Stages">
      {stages.map((s, i) => {
        const bad = s.steps.some((x) => x.state === 'failed' || x.state === 'void')
        const state = s.signed ? 'signed' : bad ? 'bad' : s.done ? 'begun' : 'open'
        const words = `${s.title}: ${s.signed ? `signed by ${s.signed.who}` : s.waits ? 'waits for the plan' : `${s.done} of ${s.steps.length}`}`
        return (
          <button
            key={s.number}
            className={`stair ${state}`}
            style={{ width: tread, height: HIGH + rise * i }}
            aria-current={s.number === at ? 'step' : undefined}
            aria-label={`Stage ${s.number}, ${words}${bad ? ', something is not as it must be' : ''}`}
            onClick={() => onPick(s.number)}
          >
            <b className="num">{s.number}</b>
            {!narrow && <span>{s.title}</span>}
            <small>{s.signed ? 'signed' : s.waits ? 'waits' : `${s.done}/${s.steps.length}`}</small>
          </button>
        )
      })}
    </div>
  )
}
