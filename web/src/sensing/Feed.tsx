import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need } from '../api/client'
import { NumberField, SelectField } from '../shared/fields'
import { Segments } from '../shared/Segments'
import { problemOf, Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { absolute, fixed, localise } from '../units/quantity'
import { SENSORS } from './options'

/** Millivolts or ohms for each temperature, printable. */
export function Feed({ start }: { start: string }) {
  const { unit } = usePreferences()
  const [sensor, setSensor] = useState(start)
  const [low, setLow] = useState<number | null>(0)
  const [high, setHigh] = useState<number | null>(sensor.startsWith('Pt') ? 120 : 300)
  const [step, setStep] = useState<number | null>(10)
  const [terminals, setTerminals] = useState<number | null>(25)
  const [lead, setLead] = useState<'copper' | 'extension'>('copper')
  const body = { sensor, low_c: low ?? 0, high_c: high ?? 0, step_c: step ?? 0, terminals_c: terminals ?? 0, lead }
  const { data, error } = useQuery({
    queryKey: ['feed', body],
    queryFn: () => need(api.POST('/api/v1/sensing/feed', { body })),
    placeholderData: (before) => before,
    retry: false,
  })
  const problem = (field: string) => problemOf(error, field)
  const thermocouple = !sensor.startsWith('Pt')
  return (
    <section className="feed stack" style={{ marginTop: 14 }}>
      <div className="grid2 noprint">
        <SelectField label="Sensor" value={sensor} options={SENSORS} onChange={setSensor} />
        {thermocouple && <NumberField label="Terminals now" kind="temperature" value={terminals} onChange={setTerminals} problem={problem('terminals_c')} />}
        <NumberField label="From" kind="temperature" value={low} onChange={setLow} problem={problem('low_c')} />
        <NumberField label="To" kind="temperature" value={high} onChange={setHigh} />
        <NumberField label="Every" kind="temperature_difference" value={step} onChange={setStep} problem={problem('step_c')} />
      </div>
      {thermocouple && (
        <div className="noprint">
          <Segments label="Joined with" value={lead} options={[['copper', 'Copper leads'], ['extension', 'Extension wire']]} onChange={setLead} />
        </div>
      )}
      {error ? (
        <Refused error={error} />
      ) : (
        data && (
          <>
            <p>{localise(data.how, unit)}</p>
            <table className="plain">
              <thead>
                <tr>
                  <th className="right">To show, °{unit}</th>
                  <th className="right">Feed, {data.unit}</th>
                  <th>Seen</th>
                </tr>
              </thead>
              <tbody>
                {data.rows.map((r) => (
                  <tr key={r.celsius}>
                    <td className="right num">{fixed(absolute(r.celsius, unit), 1)}</td>
                    <td className="right num">{fixed(r.feed, data.unit === 'mV' ? 3 : 2)}</td>
                    <td />
                  </tr>
                ))}
              </tbody>
            </table>
            <div className="noprint">
              <button className="button" onClick={() => window.print()}>
                Print it
              </button>
            </div>
          </>
        )
      )}
    </section>
  )
}
