import type { Schemas } from '../api/client'
import { NumberField, SelectField } from '../shared/fields'
import type { Description } from './data'
import { GestureField } from './GestureField'
import { useWords } from '../units/fields'

type Keeps = Description['editing']['kept_by'][number]

interface Props {
  made: Description
  data: Schemas['DescriptionView']
  set: (part: Partial<Description>) => void
}

/** Which keys change a value, and what keeps it. */
export function HowChanged({ made, data, set }: Props) {
  const { label } = useWords()
  const { editing } = made
  const edit = (part: Partial<Description['editing']>) => set({ editing: { ...editing, ...part } })
  const options = made.keys.map((k): [string, string] => [k, k])
  return (
    <fieldset className="how">
      <legend>How a value is changed</legend>
      <div className="row">
        <SelectField label="More" value={editing.up} options={options} onChange={(up) => edit({ up })} />
        <SelectField label="Less" value={editing.down} options={[['', 'none'], ...options]} onChange={(down) => edit({ down })} />
        <SelectField
          label="Next digit"
          value={editing.shift}
          options={[['', 'whole values'], ...options]}
          onChange={(shift) => edit({ shift })}
        />
        {!editing.shift && (
          <NumberField label={label('editing.per_second')} value={editing.per_second} onChange={(n) => edit({ per_second: n ?? 0 })} />
        )}
        <GestureField label="Begun by" optional value={editing.opens} keys={made.keys} onChange={(opens) => edit({ opens })} />
      </div>
      <div className="row" role="group" aria-label={label('editing.kept_by')}>
        <span>{label('editing.kept_by')}</span>
        {data.kept_by.map(({ value, words }) => (
          <label key={value} className="tick">
            <input
              type="checkbox"
              checked={editing.kept_by.includes(value as Keeps)}
              onChange={(e) =>
                edit({ kept_by: e.target.checked ? [...editing.kept_by, value as Keeps] : editing.kept_by.filter((k) => k !== value) })
              }
            />{' '}
            {words}
          </label>
        ))}
        {editing.kept_by.includes('store') && (
          <GestureField label={label('editing.store')} value={editing.store} keys={made.keys} onChange={(store) => edit({ store })} />
        )}
        {editing.kept_by.includes('pause') && (
          <NumberField label={label('editing.pause_s')} kind="time" value={editing.pause_s} onChange={(n) => edit({ pause_s: n ?? 0 })} />
        )}
      </div>
    </fieldset>
  )
}
