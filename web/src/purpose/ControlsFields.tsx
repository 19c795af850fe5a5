import type { Problem } from '../api/client'
import { NumberField, SelectField } from '../shared/fields'
import { useWords } from '../units/fields'
import type { TypedControls } from './form'

const HEATER = 'heater'

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
  return (
    <div className="grid2">
      <SelectField
        label={label('fed_by')}
        value={controls?.fed_by ?? HEATER}
        options={[[HEATER, 'The heater’s supply'], ...by]}
        onChange={(what) => onChange(what === HEATER ? null : { fed_by: what, controls_v: USUAL_V[what] })}
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
