import type { Schemas } from '../api/client'
import '../shared/going.css'
import { Said } from '../shared/Said'
import { usePreferences } from '../shell/preferences'
import { lasting } from '../units/lasting'
import { say } from '../units/quantity'

type Kept = Pick<Schemas['ControllerTable'], 'losses' | 'apart_c' | 'late_s' | 'keeps'>

/** How much of a profile another form of it holds. */
export function HowMuch({ kept, whole }: { kept: Kept; whole: string }) {
  const { unit } = usePreferences()
  return (
    <p className="profile-answer">
      {kept.keeps === 'whole'
        ? whole
        : kept.keeps === 'course'
          ? 'The course of its set-point is the same.'
          : `Its set-point is up to ${say(kept.apart_c, 'temperature_difference', unit)} off the profile, and it ends ${ended(kept.late_s)}.`}
    </p>
  )
}

/** What another form of a profile cannot say, segment by segment, with what follows. */
export function Losses({ losses, label }: { losses: Kept['losses']; label: string }) {
  if (!losses.length) return null
  return (
    <ul className="losses" aria-label={label}>
      {losses.map((l, i) => (
        <li key={i}>
          <b>Segment {l.segment + 1}</b> <Said>{l.what}</Said>: <Said>{l.then}</Said>
        </li>
      ))}
    </ul>
  )
}

function ended(late: number): string {
  if (Math.round(late) === 0) return 'when it should'
  return `${lasting(Math.round(Math.abs(late)))} ${late > 0 ? 'later' : 'sooner'}`
}
