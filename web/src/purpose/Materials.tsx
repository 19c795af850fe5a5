import type { Problem } from '../api/client'
import { NumberField, TextField } from '../shared/fields'
import type { PurposeInput } from './form'

type Limited = NonNullable<PurposeInput['materials']>[number]

/** What else must not get too hot: the weakest of it decides. */
export function Materials({
  materials,
  onChange,
  problem,
}: {
  materials: Limited[]
  onChange: (materials: Limited[]) => void
  problem: (field: string) => Problem | undefined
}) {
  const change = (i: number, part: Partial<Limited>) => onChange(materials.map((m, k) => (k === i ? { ...m, ...part } : m)))
  return (
    <div className="materials">
      {materials.map((m, i) => (
        <div key={i}>
          <TextField
            label={`Material ${i + 1}`}
            value={m.name}
            onChange={(name) => change(i, { name })}
            problem={problem(`materials[${i}].name`)}
          />
          <NumberField
            label={`stands, ${i + 1}`}
            kind="temperature"
            value={m.limit_c}
            onChange={(limit_c) => change(i, { limit_c: limit_c ?? NaN })}
            problem={problem(`materials[${i}].limit_c`)}
          />
          <button type="button" className="button quiet" onClick={() => onChange(materials.filter((_, k) => k !== i))}>
            Remove
          </button>
        </div>
      ))}
      <button type="button" className="button quiet" onClick={() => onChange([...materials, { name: '', limit_c: 200 }])}>
        Add a material that must not get too hot
      </button>
    </div>
  )
}
