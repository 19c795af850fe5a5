import { NumberField } from '../shared/fields'
import { Segments } from '../shared/Segments'
import { problemOf } from '../shared/states'
import { useWords } from '../units/fields'
import type { Quantity } from '../api/client'
import { type Draft, type How, orUnreadable } from './draft'

const ASKED: [Exclude<keyof How, 'recovered'>, Quantity][] = [
  ['places_c', 'temperature_difference'],
  ['reference_digit_c', 'temperature_difference'],
  ['swing_c', 'temperature_difference'],
  ['drift_c_per_min', 'temperature_rate'],
  ['follows_slower_s', 'time'],
  ['rose_c_per_min', 'temperature_rate'],
  ['reference_slower_s', 'time'],
]

/** How the two were compared: what of it makes the result less sure. */
export function Circumstances({ draft, wrong }: { draft: Draft; wrong: unknown }) {
  const { how, display_digit_c } = draft.values
  const { label } = useWords()
  const set = (part: Partial<How>) => draft.set({ how: { ...how, ...part } })
  return (
    <details className="fold-out">
      <summary>
        <h2>How they were compared</h2> <span className="dim"> places, drift, cycling</span>
      </summary>
      <div className="grid2">
        {ASKED.map(([name, kind]) => (
          <NumberField
            key={name}
            label={label(name)}
            kind={kind}
            value={how[name]}
            onChange={orUnreadable((value) => set({ [name]: value ?? 0 }))}
            problem={problemOf(wrong, `how.${name}`)}
          />
        ))}
        <NumberField
          label={label('display_digit_c')}
          kind="temperature_difference"
          value={display_digit_c}
          onChange={orUnreadable((display_digit_c) => draft.set({ display_digit_c }))}
          problem={problemOf(wrong, 'display_digit_c')}
        />
      </div>
      <div className="field">
        <span className="label">{label('recovered')}</span>
        <Segments
          label={label('recovered')}
          value={how.recovered ? 'yes' : 'no'}
          options={[
            ['yes', 'Yes'],
            ['no', 'No, one right after the other'],
          ]}
          onChange={(v) => set({ recovered: v === 'yes' })}
        />
      </div>
    </details>
  )
}
