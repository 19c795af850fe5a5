import type { Problem } from '../api/client'
import { NumberField } from '../shared/fields'
import { Segments } from '../shared/Segments'
import { useWords } from '../units/fields'
import type { TypedHeaterSensor } from './form'

const NONE: TypedHeaterSensor = { most_c: null, hotter_c: null, lag_s: null }

/** One loop round the rig’s sensor, or two in a row with a second sensor at the heater. */
export function HeaterSensorFields({
  sensor,
  onChange,
  problem,
}: {
  sensor: TypedHeaterSensor | null
  onChange: (sensor: TypedHeaterSensor | null) => void
  problem: (field: string) => Problem | undefined
}) {
  const { label } = useWords()
  const number = (name: keyof TypedHeaterSensor, path: string, kind: 'temperature' | 'temperature_difference' | 'time', hint: string) => (
    <NumberField
      label={label(path)}
      kind={kind}
      value={sensor?.[name] ?? null}
      onChange={(value) => sensor && onChange({ ...sensor, [name]: value })}
      hint={hint}
      problem={problem(`heater_sensor.${name}`)}
    />
  )
  return (
    <>
      <Segments
        label="Loops"
        value={sensor ? 'two' : 'one'}
        options={[
          ['one', 'One loop'],
          ['two', 'Two: one at the heater'],
        ]}
        onChange={(how) => onChange(how === 'two' ? (sensor ?? NONE) : null)}
      />
      {problem('heater_sensor') && <p role="alert">{problem('heater_sensor')!.reason}</p>}
      {sensor && (
        <>
          <div className="grid2">
            {number('most_c', 'heater_sensor.most_c', 'temperature', 'what heater and insulation stand for long')}
            {number('hotter_c', 'hotter_c', 'temperature_difference', 'read both, settled; empty: as such rigs have it')}
            {number('lag_s', 'heater_sensor.lag_s', 'time', '63 % of the way in; empty: as such rigs have it')}
          </div>
          <p className="small">
            The inner loop holds the heater where the outer one asks, and never asks for more than that. It is no limiter: that stays a
            third sensor of its own.
          </p>
        </>
      )}
    </>
  )
}
