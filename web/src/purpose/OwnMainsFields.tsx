import type { Problem } from '../api/client'
import { NumberField, SelectField } from '../shared/fields'
import { useWords } from '../units/fields'
import type { TypedOwnMains } from './form'

const PUBLIC = 'public'

/** What makes the mains: the public network, or a generator or inverter with its power. */
export function OwnMainsFields({
  own,
  onChange,
  problem,
}: {
  own: TypedOwnMains | null
  onChange: (own: TypedOwnMains | null) => void
  problem: (field: string) => Problem | undefined
}) {
  const { label, choices } = useWords()
  return (
    <div className="grid2">
      <SelectField
        label={label('made_by')}
        value={own?.made_by ?? PUBLIC}
        options={[[PUBLIC, 'The public network'], ...(choices('made_by') as [TypedOwnMains['made_by'], string][])]}
        onChange={(what) => onChange(what === PUBLIC ? null : { made_w: own?.made_w ?? null, made_by: what })}
        problem={problem('own_mains') ?? problem('own_mains.made_by')}
      />
      {own && (
        <NumberField
          label={label('made_w')}
          kind="power"
          value={own.made_w}
          onChange={(made_w) => onChange({ ...own, made_w })}
          hint="on its nameplate"
          problem={problem('own_mains.made_w')}
        />
      )}
    </div>
  )
}
