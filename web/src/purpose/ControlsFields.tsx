import type { Problem } from '../api/client'
import { NumberField } from '../shared/fields'
import { Segments } from '../shared/Segments'
import { useWords } from '../units/fields'
import type { TypedControls } from './form'

/** What each is usually made for, V. */
const USUAL_V: Record<TypedControls['fed_by'], number> = { mains: 230, dc: 24, module: 24 }

/** What feeds controller and coils: the heater's supply, or something of their own. */
export function ControlsFields({
  controls,
  mains,
  onChange,
  problem,
}: {
  controls: TypedControls | null
  /** Whether the heater's supply is one that a module can make DC from. */
  mains: boolean
  onChange: (controls: TypedControls | null) => void
  problem: (field: string) => Problem | undefined
}) {
  const { label, choices } = useWords()
  const by = (choices('fed_by') as [TypedControls['fed_by'], string][]).filter(
    ([what]) => mains || what !== 'module' || controls?.fed_by === 'module',
  )
  const wrong = problem('controls') ?? problem('controls.fed_by')
  return (
    <>
      <Segments
        label={label('controls')}
        value={controls?.fed_by ?? 'heater'}
        options={[['heater', 'The same supply'], ...by]}
        onChange={(what) => onChange(what === 'heater' ? null : { fed_by: what, controls_v: USUAL_V[what] })}
      />
      {wrong && <p role="alert">{wrong.reason}</p>}
      {controls && (
        <div className="grid2">
          <NumberField
            label={label('controls_v')}
            kind="voltage"
            value={controls.controls_v}
            onChange={(controls_v) => onChange({ ...controls, controls_v })}
            problem={problem('controls.controls_v')}
          />
        </div>
      )}
    </>
  )
}
