import type { Rig } from '../api/client'
import { Fig, Figures } from '../shared/Fig'
import { Said } from '../shared/Said'
import { AsKeyed } from './AsKeyed'
import { BY_HAND, type Candidate, type Course, type Trial } from './lines'

interface Props {
  rig: Rig
  candidate: Candidate
  trial: Trial
  course: Course | undefined
  inSheet: boolean
  pending: boolean
  onUse: () => void
}

/** The one picked: its numbers, whether it may be used, and everything else that is known of it. */
export function Chosen({ rig, candidate, trial, course, inSheet, pending, onUse }: Props) {
  return (
    <>
      <div className="row" style={{ marginTop: 14 }}>
        <button className="button main" disabled={pending || candidate.swings || candidate.key === 'now'} onClick={onUse}>
          {candidate.key === BY_HAND ? 'Use these numbers' : `Use ${candidate.name}`}
        </button>
        <span className="row" style={{ gap: 14 }}>
          {candidate.figures.map((f) => (
            <span key={f.name} className="dim">
              <Said>{f.name}</Said> <Fig figure={f} />
            </span>
          ))}
        </span>
        {inSheet && <span className="badge fine">in the sheet</span>}
      </div>
      {candidate.mode !== 'off' && <AsKeyed rig={rig} values={candidate.values} />}
      {candidate.swings && (
        <p role="status">
          <b style={{ color: 'var(--fault)' }}>It swings by itself</b> with the process as it was found: the picture shows where it ends up,
          not a setting.
        </p>
      )}
      <p className="dim">
        <Said>{[candidate.aim, candidate.source && `${candidate.source}.`, candidate.remark].filter(Boolean).join(' ')}</Said>
      </p>
      <details className="more-of-it">
        <summary>Everything else about it</summary>
        <div className="columns">
          {trial !== 'heat_up' && course && <Figures figures={course.figures} />}
          <Figures figures={candidate.outcome} />
          <Figures figures={candidate.loop} />
        </div>
      </details>
    </>
  )
}
