import type { Problem } from '../api/client'
import { NumberField, SelectField } from '../shared/fields'
import { useWords } from '../units/fields'
import { coolerOf, pumps, type TypedCooler } from './form'

const NATURE = 'nature'
const NONE: TypedCooler = { cooled_by: 'fan', cooler_w: null, drive_w: null, coolant_c: null, coldest_c: null }

/** What takes heat out beside the heater, never both at once. */
export function CoolerFields({
  cooler,
  onChange,
  problem,
}: {
  cooler: TypedCooler | null
  onChange: (cooler: TypedCooler | null) => void
  problem: (field: string) => Problem | undefined
}) {
  const { label, choices } = useWords()
  const number = (name: 'cooler_w' | 'drive_w' | 'coolant_c' | 'coldest_c', kind: 'power' | 'temperature', hint: string) => (
    <NumberField
      label={label(name)}
      kind={kind}
      value={cooler?.[name] ?? null}
      onChange={(value) => cooler && onChange({ ...cooler, [name]: value })}
      hint={hint}
      problem={problem(`cooler.${name}`)}
    />
  )
  const by = choices('cooled_by') as [TypedCooler['cooled_by'], string][]
  return (
    <>
      <SelectField
        label={label('cooled_by')}
        value={cooler?.cooled_by ?? NATURE}
        options={[[NATURE, 'Nothing but the room'], ...by]}
        onChange={(what) => onChange(what === NATURE ? null : coolerOf(cooler ?? NONE, what))}
        problem={problem('cooler') ?? problem('cooler.cooled_by')}
      />
      {cooler && (
        <div className="grid2">
          {number('cooler_w', 'power', 'at the working temperature')}
          {cooler.cooled_by !== 'turned' && number('drive_w', 'power', 'on its own nameplate')}
          {cooler.cooled_by === 'valve' && number('coolant_c', 'temperature', 'in summer, from the tap')}
          {pumps(cooler.cooled_by) && number('coldest_c', 'temperature', 'by its sheet; colder than it gets the empty rig')}
        </div>
      )}
    </>
  )
}
