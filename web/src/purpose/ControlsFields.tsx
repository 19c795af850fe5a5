import type { Problem } from '../api/client'
import { NumberField, SelectField } from '../shared/fields'
import { useWords } from '../units/fields'
import type { TypedControls } from './form'

const HEATER = 'heater'

/** What feeds controller and coils: the heater's supply, or something of their own. */
export function ControlsFields({
  controls,
  mains,
  usual_v,
  onChange,
  problem,
}: {
  controls: TypedControls | null
  /** Whether the heater's supply is one that a module can make DC from. */
  mains: boolean
  /** What mains and DC begin with, V. */
  usual_v: { mains: number | null; dc: number | null }
  onChange: (controls: TypedControls | null) => void
  problem: (field: string) => Problem | undefined
}) {
  const { label, choices } = useWords()
  const by = (choices('fed_by') as [TypedControls['fed_by'], string][]).filter(
    ([what]) => mains || what !== 'module' || controls?.fed_by === 'module',
  )
  return (
    <div className="grid2">
      <SelectField
        label={label('fed_by')}
        value={controls?.fed_by ?? HEATER}
        options={[[HEATER, 'The heater’s supply'], ...by]}
        onChange={(what) => onChange(what === HEATER ? null : { fed_by: what, controls_v: usual_v[what === 'mains' ? 'mains' : 'dc'] })}
        problem={problem('controls') ?? problem('controls.fed_by')}
      />
      {controls && (
        <NumberField
          label={label('controls_v')}
          kind="voltage"
          value={controls.controls_v}
          onChange={(controls_v) => onChange({ ...controls, controls_v })}
          problem={problem('controls.controls_v')}
        />
      )}
    </div>
  )
}
