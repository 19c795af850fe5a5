import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need, type Figure } from '../api/client'
import { NumberField, SelectField } from '../shared/fields'
import { Fig } from '../shared/Fig'
import { problemOf, Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { localise, say } from '../units/quantity'
import { SENSORS } from './options'

/** The reading's uncertainty as a bar for each link of its chain. */
export function HowWrong({ start }: { start: string }) {
  const { unit } = usePreferences()
  const [sensor, setSensor] = useState(start)
  const [celsius, setCelsius] = useState<number | null>(start.startsWith('Pt') ? 60 : 500)
  const [tolerance, setTolerance] = useState('')
  const [joint, setJoint] = useState<number | null>(40)
  const [inputC, setInputC] = useState<number | null>(0.5)
  const [percent, setPercent] = useState<number | null>(0.1)
  const [junction, setJunction] = useState<number | null>(1)
  const [digit, setDigit] = useState<number | null>(0.1)
  const [placement, setPlacement] = useState<number | null>(0)
  const thermocouple = !sensor.startsWith('Pt')
  const body = {
    sensor,
    celsius: celsius ?? 0,
    tolerance_class: tolerance,
    joint_c: thermocouple ? joint : null,
    input_c: inputC ?? 0,
    input_percent: percent ?? 0,
    cold_junction_c: junction ?? 0,
    digit_c: digit ?? 0,
    placement_c: placement ?? 0,
  }
  const { data, error } = useQuery({
    queryKey: ['budget', body],
    queryFn: () => need(api.POST('/api/v1/sensing/budget', { body })),
    placeholderData: (before) => before,
    retry: false,
  })
  const problem = (field: string) => problemOf(error, field)
  const largest = data?.parts[0]?.value ?? 1
  return (
    <section className="stack" style={{ marginTop: 14 }}>
      {error ? (
        <Refused error={error} />
      ) : (
        data && (
          <>
            <p className="budget-answer">
              ± <Fig figure={data.expanded} /> <span className="dim small">19 times in 20</span>
            </p>
            <p>{localise(data.advice, unit)}</p>
            <ul className="budget" aria-label="What it is made of">
              {data.parts.map((p, i) => (
                <Bar key={p.name} part={p} share={data.shares[i] ?? 0} width={p.value / largest} />
              ))}
            </ul>
            <p className="dim">
              If all erred the same way: <Fig figure={data.worst} />.
            </p>
          </>
        )
      )}
      <div className="fields4">
        <SelectField
          label="Sensor"
          value={sensor}
          options={SENSORS}
          onChange={(s) => {
            setSensor(s)
            setTolerance('')
          }}
          problem={problem('sensor')}
        />
        <NumberField label="At" kind="temperature" value={celsius} onChange={setCelsius} problem={problem('celsius')} />
        <SelectField
          label="Class"
          value={data && !error ? data.tolerance_class : tolerance}
          options={(data?.classes ?? []).map((c) => [c.name, `${c.name}, ${c.permitted_c == null ? 'not here' : `±${say(c.permitted_c, 'temperature_difference', unit)}`}`] as const)}
          onChange={setTolerance}
          problem={problem('tolerance_class')}
        />
        {thermocouple && <NumberField label="Cable's joint at (empty: none)" kind="temperature" value={joint} onChange={setJoint} problem={problem('joint_c')} />}
        <NumberField label="Input, fixed" kind="temperature_difference" value={inputC} onChange={setInputC} problem={problem('input_c')} />
        <NumberField label="Input, of reading" kind="percent" value={percent} onChange={setPercent} problem={problem('input_percent')} />
        {thermocouple && <NumberField label="Cold junction" kind="temperature_difference" value={junction} onChange={setJunction} problem={problem('cold_junction_c')} />}
        <NumberField label="Display digit" kind="temperature_difference" value={digit} onChange={setDigit} problem={problem('digit_c')} />
        <NumberField label="Placement" kind="temperature_difference" value={placement} onChange={setPlacement} problem={problem('placement_c')} />
      </div>
    </section>
  )
}

function Bar({ part, share, width }: { part: Figure; share: number; width: number }) {
  return (
    <li>
      <span>{part.name}</span>
      <span className="bar">
        <i style={{ width: `${width * 100}%` }} />
      </span>
      <span className="num">
        ± <Fig figure={part} />
      </span>
      <span className="num dim">{Math.round(share * 100)} %</span>
    </li>
  )
}
