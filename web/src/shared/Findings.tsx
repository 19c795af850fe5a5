import type { Finding, Rig, Schemas } from '../api/client'
import { useAccept } from '../api/hooks'
import { usePreferences } from '../shell/preferences'
import { useShow } from '../shell/reason'
import { said } from '../units/message'
import { Refused } from './states'

type Proposal = Schemas['Proposal']

interface Props {
  rig: Rig
  findings: Finding[]
  onPick?: (finding: Finding) => void
  fine: string
  /** Takes a proposal itself where it can: of what is tried and not saved yet. */
  settle?: (proposal: Proposal) => boolean
}

/** Findings, worst first; each opens its reason, and its proposal is accepted with one press. */
export function Findings({ rig, findings, onPick, fine, settle }: Props) {
  const { unit } = usePreferences()
  const show = useShow()
  const accept = useAccept(rig)
  if (!findings.length)
    return (
      <p>
        <span className="badge fine">fine</span> {fine}
      </p>
    )
  return (
    <>
      <ul className="findings" aria-label="Findings">
        {findings.map((f) => (
          <li key={f.rule + f.subjects.join()}>
            <span className={`badge ${f.severity}`}>{f.severity}</span>
            <button
              className="title"
              onClick={() => {
                show({ finding: f })
                onPick?.(f)
              }}
            >
              {said(f.title, unit)}
            </button>
            {f.proposal && (
              <button className="button" disabled={accept.isPending} onClick={() => settle?.(f.proposal!) || accept.mutate(f.proposal!)}>
                {said(f.proposal.label, unit)}
              </button>
            )}
          </li>
        ))}
      </ul>
      <Refused error={accept.error} />
    </>
  )
}

/** Findings that belong to no rig: each opens its reason. */
export function FindingTitles({ findings }: { findings: Finding[] }) {
  const { unit } = usePreferences()
  const show = useShow()
  return (
    <ul className="findings" aria-label="Findings">
      {findings.map((f) => (
        <li key={f.rule + f.subjects.join()}>
          <span className={`badge ${f.severity}`}>{f.severity}</span>
          <button className="title" onClick={() => show({ finding: f })}>
            {said(f.title, unit)}
          </button>
        </li>
      ))}
    </ul>
  )
}
