import { useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { api, need, type Schemas } from '../api/client'
import { axes, Chart, type Ink } from '../shared/Chart'
import { NumberField, SelectField } from '../shared/fields'
import { problemOf, Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { absolute, difference, fixed, say, significant, type Unit } from '../units/quantity'

interface Row {
  ohms: number | null
  celsius: number | null
}

/** The usual 10 kΩ bead as a start; the user's own pairs replace it. */
const START: Row[] = [
  { ohms: 32650, celsius: 0 },
  { ohms: 10000, celsius: 25 },
  { ohms: 2485, celsius: 60 },
  { ohms: 679, celsius: 100 },
]

/** From measured pairs to an equation, and from the equation to the divider. */
export function Thermistor() {
  const { unit } = usePreferences()
  const [rows, setRows] = useState(START)
  const [low, setLow] = useState<number | null>(20)
  const [high, setHigh] = useState<number | null>(90)
  const [series, setSeries] = useState<number | null>(null)
  const [bits, setBits] = useState('10')
  const [volts, setVolts] = useState<number | null>(3.3)
  const pairs = rows.filter((r) => r.ohms != null && r.celsius != null) as Schemas['MeasuredPairRequest'][]
  const body = { pairs, low_c: low ?? 0, high_c: high ?? 0, series_ohm: series, bits: Number(bits), supply_v: volts ?? 0 }
  const { data, error } = useQuery({
    queryKey: ['thermistor', body],
    queryFn: () => need(api.POST('/api/v1/sensing/thermistor', { body })),
    placeholderData: (before) => before,
    retry: false,
  })
  const option = useMemo(() => (data ? fineness(data, unit) : null), [data, unit])
  const change = (i: number, part: Partial<Row>) => setRows((all) => all.map((r, k) => (k === i ? { ...r, ...part } : r)))
  const problem = (field: string) => problemOf(error, field)
  const coarsest = data ? Math.max(...data.degrees_per_count) : 0
  return (
    <section style={{ marginTop: 12 }}>
      {error ? (
        <Refused error={error} />
      ) : (
        data && (
          <>
            <p className="lead">
              At {say(data.celsius[data.degrees_per_count.indexOf(coarsest)] ?? 0, 'temperature', unit)} one count is worth <b className="num">{significant(difference(coarsest, unit))} °{unit}</b>, the coarsest of the span, with{' '}
              <b className="num">{ohmWords(data.series_ohm)}</b> in series
              {series == null ? ', the best there is for it.' : `; the best would be ${ohmWords(data.best_series_ohm)}.`}
            </p>
            {option && <Chart option={option} height={250} label="Degrees a count over the span" />}
          </>
        )
      )}
      <div className="sensors">
        <div>
          <h2>Measured</h2>
          <table className="plain">
            <thead>
              <tr>
                <th className="right">Resistance, Ω</th>
                <th className="right">At</th>
                <th className="right">Left over</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((r, i) => (
                <tr key={i}>
                  <td>
                    <NumberField bare label={`Resistance ${i + 1}`} value={r.ohms} onChange={(ohms) => change(i, { ohms })} problem={problem(`pairs[${i}].ohms`)} />
                  </td>
                  <td>
                    <NumberField bare label={`Temperature ${i + 1}`} kind="temperature" value={r.celsius} onChange={(celsius) => change(i, { celsius })} problem={problem(`pairs[${i}].celsius`)} />
                  </td>
                  <td className="right num" style={{ whiteSpace: 'nowrap' }}>{leftOver(data, error, pairs, r, unit)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <button className="button quiet" onClick={() => setRows((all) => [...all, { ohms: null, celsius: null }])}>
            One more pair
          </button>
        </div>
        <div className="stack">
          <h2>Equation</h2>
          {data && !error && (
            <div className="derivation" style={{ borderLeft: '3px solid var(--cable)', paddingLeft: 10 }}>
              <div className="num small">1/T = a + b ln R + c (ln R)³, T in kelvin</div>
              <div className="num">a = {data.a.toExponential(5)}</div>
              <div className="num">b = {data.b.toExponential(5)}</div>
              <div className="num">c = {data.c.toExponential(5)}</div>
              <div className="num small">
                {ohmWords(data.r25_ohm)} at 25 °C, B {fixed(data.beta, 0)} K between the ends
              </div>
            </div>
          )}
          <div className="grid2">
            <NumberField label="Span from" kind="temperature" value={low} onChange={setLow} problem={problem('low_c')} />
            <NumberField label="to" kind="temperature" value={high} onChange={setHigh} problem={problem('high_c')} />
            <NumberField label="Series resistor, Ω (empty: best)" value={series} onChange={setSeries} problem={problem('series_ohm')} />
            <SelectField label="Converter" value={bits} options={[['8', '8 bit'], ['10', '10 bit'], ['12', '12 bit'], ['16', '16 bit']]} onChange={setBits} problem={problem('bits')} />
            <NumberField label="Supply" kind="voltage" value={volts} onChange={setVolts} problem={problem('supply_v')} />
          </div>
          {data && !error && (
            <p className="small dim">
              Self-heating at most {say(Math.max(...data.self_heating_c), 'temperature_difference', unit)} in still air (2 mW/K). Counts 0 and full scale mean shorted and open: let the firmware treat both as a broken sensor.
            </p>
          )}
        </div>
      </div>
    </section>
  )
}

const ohmWords = (ohm: number) => (ohm >= 1000 ? `${significant(ohm / 1000)} kΩ` : `${significant(ohm)} Ω`)

function leftOver(data: Schemas['ThermistorView'] | undefined, error: unknown, pairs: Schemas['MeasuredPairRequest'][], row: Row, unit: Unit): string {
  if (!data || error || row.celsius == null) return ''
  const place = [...pairs].sort((a, b) => a.celsius - b.celsius).findIndex((p) => p.celsius === row.celsius)
  const residual = data.residuals_c[place]
  return residual == null ? '' : `${fixed(difference(residual, unit), 3)} °${unit}`
}

function fineness(data: Schemas['ThermistorView'], unit: Unit) {
  const series = (values: number[]) => data.celsius.map((t, i) => [Math.round(absolute(t, unit) * 10) / 10, Math.round(difference(values[i] ?? 0, unit) * 1e5) / 1e5])
  return (ink: Ink) => {
    const base = axes(ink, false)
    return {
      ...base,
      tooltip: { show: false },
      grid: { ...base.grid, left: 66 },
      xAxis: { ...base.xAxis, name: `°${unit}` },
      yAxis: { ...base.yAxis, min: 0, scale: false, axisLabel: { ...base.yAxis.axisLabel, formatter: (v: number) => `${v}°` } },
      series: [
        { type: 'line', name: 'best', data: series(data.best_degrees_per_count), showSymbol: false, lineStyle: { color: ink.line, width: 2, type: 'dashed' }, endLabel: { show: true, formatter: 'best', color: ink.dim, fontFamily: ink.words, fontSize: 14, offset: [-44, 14] } },
        { type: 'line', name: 'chosen', data: series(data.degrees_per_count), showSymbol: false, lineStyle: { color: ink.cable, width: 3 } },
      ],
    }
  }
}
