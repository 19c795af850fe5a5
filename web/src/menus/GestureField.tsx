import { NumberField, SelectField, TextField } from '../shared/fields'
import type { Gesture } from './data'

const PRESSES = [
  ['', 'nothing does'],
  ['tap', 'press'],
  ['hold', 'hold'],
  ['power', 'power on, held'],
  ['switch', 'switch on the board'],
] as const

interface Props {
  label: string
  value: Gesture | null
  keys: string[]
  onChange: (value: Gesture | null) => void
  /** Whether there need not be any. */
  optional?: boolean
}

/** What is done to the controller, in one line: how, which key, for how long. */
export function GestureField({ label, value, keys, onChange, optional }: Props) {
  const options = keys.includes(value?.key ?? '') || !value ? keys : [...keys, value.key]
  const set = (part: Partial<Gesture>) => onChange({ press: 'tap', key: keys[0] ?? '', seconds: 0, ...value, ...part })
  return (
    <div className="gesture" role="group" aria-label={label}>
      <SelectField
        label={label}
        value={value?.press ?? ''}
        options={PRESSES.filter(([k]) => optional || k !== '')}
        onChange={(press) =>
          press ? set({ press: press as Gesture['press'], seconds: press === 'hold' ? value?.seconds || 3 : 0 }) : onChange(null)
        }
      />
      {value && value.press !== 'switch' && (
        <SelectField
          bare
          label={`${label}: key`}
          value={value.key}
          options={options.map((k): [string, string] => [k, k])}
          onChange={(key) => set({ key })}
        />
      )}
      {value?.press === 'switch' && <TextField label="which" value={value.key} onChange={(key) => set({ key })} />}
      {value?.press === 'hold' && (
        <NumberField
          bare
          label={`${label}: seconds`}
          kind="time"
          value={value.seconds}
          onChange={(seconds) => set({ seconds: seconds ?? 0 })}
        />
      )}
    </div>
  )
}
