import { useInAddress } from '../api/address'
import type { Rig } from '../api/client'
import { Segments } from '../shared/Segments'
import { ControllerTable } from './ControllerTable'
import type { Profile, ProfilesView, Work } from './data'
import { Firmware } from './Firmware'
import { useForms } from './useForms'

const FORMS = [
  ['rows', 'Rows to enter'],
  ['file', 'A file for own firmware'],
] as const

interface Props {
  rig: Rig
  view: ProfilesView
  profile: Profile
  name: string
  onTake: (work: Pick<Work, 'profile'>) => void
}

/** The profile where something else than Rellux runs it. */
export function Elsewhere({ rig, view, profile, name, onTake }: Props) {
  const [as, choose] = useInAddress<(typeof FORMS)[number][0]>(
    'as',
    'rows',
    FORMS.map(([key]) => key),
  )
  const own = useForms(rig, view)
  return (
    <div className="stack">
      <Segments label="What it takes" value={as} options={FORMS} onChange={choose} />
      {as === 'rows' ? (
        <ControllerTable rig={rig} own={own} profile={profile} onDraw={(drawn) => onTake({ profile: drawn })} />
      ) : (
        <Firmware rig={rig} own={own} profile={profile} name={name} onTake={onTake} />
      )}
    </div>
  )
}
