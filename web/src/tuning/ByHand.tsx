import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need, type Schemas } from '../api/client'
import { Segments } from '../shared/Segments'
import { NumberField } from '../shared/fields'
import { Refused } from '../shared/states'
import { type Candidate, type Trial } from './lines'
import { fromPlace, toPlace, type Range } from './slider'

export type Numbers = Schemas['HandNumbersRequest']

const BAND: Range = { low: 0.5, high: 500 }
const INTEGRAL: Range = { low: 5, high: 14_400, off: true }
const DERIVATIVE: Range = { low: 1, high: 1800, off: true }
const HYSTERESIS: Range = { low: 0.1, high: 50, off: true }

interface Props {
  numbers: Numbers
  onChange: (numbers: Numbers) => void
  refused: unknown
}

/** The controller's numbers as sliders: what they would do is drawn as they move. */
export function ByHand({ numbers, onChange, refused }: Props) {
  const onOff = numbers.hysteresis_c != null
  return (
    <div className="by-hand" role="group" aria-label="By hand">
      <Segments
        label="Kind of control"
        value={onOff ? 'on_off' : 'pid'}
        options={[
          ['pid', 'PID'],
          ['on_off', 'on/off'],
        ]}
        onChange={(kind) =>
          onChange(kind === 'on_off' ? { ...NOTHING, hysteresis_c: 1 } : { ...NOTHING, proportional_band_c: 20, integral_time_s: 300 })
        }
      />
      {onOff ? (
        <Knob label="Hysteresis" kind="temperature_difference" range={HYSTERESIS} value={numbers.hysteresis_c ?? 0}
          onChange={(hysteresis_c) => onChange({ ...NOTHING, hysteresis_c })} /> // prettier-ignore
      ) : (
        <>
          <Knob
            label="Proportional band"
            kind="temperature_difference"
            range={BAND}
            value={numbers.proportional_band_c ?? 20}
            onChange={(proportional_band_c) => onChange({ ...numbers, proportional_band_c })}
          />{' '}
          {/* prettier-ignore */}
          <Knob label="Integral time" kind="time" range={INTEGRAL} value={numbers.integral_time_s ?? 0}
            onChange={(integral_time_s) => onChange({ ...numbers, integral_time_s })} />{' '}
          {/* prettier-ignore */}
          <Knob label="Derivative time" kind="time" range={DERIVATIVE} value={numbers.derivative_time_s ?? 0}
            onChange={(derivative_time_s) => onChange({ ...numbers, derivative_time_s })} />{' '}
          {/* prettier-ignore */}
          {numbers.inner_band_c != null && (
            <>
              <Knob
                label="Inner proportional band"
                kind="temperature_difference"
                range={BAND}
                value={numbers.inner_band_c}
                onChange={(inner_band_c) => onChange({ ...numbers, inner_band_c })}
              />{' '}
              {/* prettier-ignore */}
              <Knob label="Inner integral time" kind="time" range={INTEGRAL} value={numbers.inner_integral_s ?? 0}
                onChange={(inner_integral_s) => onChange({ ...numbers, inner_integral_s })} />{' '}
              {/* prettier-ignore */}
            </>
          )}
        </>
      )}
      <Refused error={refused} />
    </div>
  )
}

const NOTHING: Numbers = {
  proportional_band_c: null,
  integral_time_s: 0,
  derivative_time_s: 0,
  hysteresis_c: null,
  inner_band_c: null,
  inner_integral_s: 0,
}

interface KnobProps {
  label: string
  kind: 'time' | 'temperature_difference'
  range: Range
  value: number
  onChange: (value: number) => void
}

function Knob({ label, kind, range, value, onChange }: KnobProps) {
  const [begun, setBegun] = useState(false) // "0" on the way to "0.5": no number of a controller yet, and not to be taken away
  const type = (typed: number | null, wrong: boolean) => {
    const is = !wrong && typed !== null && (typed > 0 || !!range.off)
    setBegun(!is)
    if (is) onChange(typed)
  }
  return (
    <div className="knob" onBlur={() => setBegun(false)}>
      <NumberField label={label} kind={kind} value={begun ? NaN : value} onChange={type} />
      <input
        type="range"
        min={0}
        max={1000}
        aria-label={`${label}, slider`}
        aria-valuetext={value === 0 ? 'none' : String(value)}
        value={toPlace(value, range)}
        onChange={(e) => onChange(fromPlace(Number(e.target.value), range))}
      />
    </div>
  )
}

/** What one's own numbers do: one question under way, and the last ones asked for are what is drawn. */
export function useByHand(slug: string, revision: number, numbers: Numbers | null, trial: Trial) {
  return useQuery({
    queryKey: ['of', slug, 'by-hand', revision, trial, numbers],
    enabled: numbers !== null,
    queryFn: ({ signal }): Promise<Candidate> =>
      need(
        api.POST('/api/v1/rigs/{slug}/tuning/try', {
          params: { path: { slug } },
          body: { numbers: numbers!, trial },
          signal,
        }),
      ),
    placeholderData: (before) => before,
    retry: false,
    gcTime: 30_000,
  })
}

/** A candidate's numbers to begin with. */
export function numbersOf(candidate: Candidate): Numbers {
  const of = (symbol: string) => Number((candidate.figures.find((f) => f.symbol === symbol)?.value ?? 0).toPrecision(3))
  if (candidate.mode !== 'pid') return { ...NOTHING, hysteresis_c: candidate.figures[0]?.value ?? 1 }
  return {
    ...NOTHING,
    proportional_band_c: of('PB'),
    integral_time_s: Number.isFinite(of('T_i')) ? of('T_i') : 0,
    derivative_time_s: of('T_d'),
    ...(of('PB₂') ? { inner_band_c: of('PB₂'), inner_integral_s: of('T_i2') } : {}),
  }
}
