import { useMemo } from 'react'
import type { Schemas } from '../api/client'
import { Fig } from '../shared/Fig'
import { axes, Chart, type Ink } from '../shared/Chart'
import { usePreferences } from '../shell/preferences'
import { absolute, difference, say } from '../units/quantity'

/** The model over every stretch with the family of all that fit as well, and what is left of it below. */
export function Fit({ found }: { found: Schemas['IdentifiedView'] }) {
  const { unit } = usePreferences()
  return (
    <>
      {found.fitted.map((one, i) => (
        <div key={i}>
          {found.fitted.length > 1 && (
            <h3>
              {one.run_name}
              {one.time_s[0]! > 0 && `, from ${say(one.time_s[0]!, 'time', unit)} on`}
            </h3>
          )}
          <Over one={one} />
          <p className="small">
            {one.begun.map((figure, k) => (
              <span key={figure.symbol}>
                {k ? ', ' : 'Found with it: '}
                {figure.name} <Fig figure={figure} />
              </span>
            ))}
          </p>
        </div>
      ))}
      <p className="small dim">
        Solid: measured. Dashed: model. Shaded: all that fit as well. They differ by {say(found.residual_c, 'temperature_difference', unit)}{' '}
        rms over {found.points} points. Below: what is left.
      </p>
    </>
  )
}

function Over({ one: found }: { one: Schemas['FittedView'] }) {
  const { unit } = usePreferences()
  const [over, left] = useMemo(() => {
    const hours = (found.time_s.at(-1) ?? 0) - (found.time_s[0] ?? 0) > 4 * 3600
    const x = (t: number) => Math.round((t / (hours ? 3600 : 60)) * 1000) / 1000
    const line = (values: number[], by = (v: number) => absolute(v, unit)) =>
      found.time_s.map((t, i) => [x(t), Math.round(by(values[i] ?? 0) * 1000) / 1000])
    const wide = found.high_c.map((v, i) => v - found.low_c[i]!)
    const plain = { type: 'line', showSymbol: false, silent: true }
    const hidden = { ...plain, lineStyle: { opacity: 0 }, stack: 'family', stackStrategy: 'all' }
    return [
      (ink: Ink) => ({
        ...axes(ink, hours),
        tooltip: { show: false },
        series: [
          { ...hidden, data: line(found.low_c) },
          { ...hidden, data: line(wide, (v) => difference(v, unit)), areaStyle: { color: ink.danger, opacity: 0.2 } },
          { ...plain, data: line(found.measured_c), lineStyle: { color: ink.ink, width: 2 } },
          { ...plain, data: line(found.modelled_c), lineStyle: { color: ink.danger, width: 2, type: 'dashed' } },
        ],
      }),
      (ink: Ink) => {
        const { grid, xAxis, yAxis } = axes(ink, hours)
        return {
          grid: { ...grid, bottom: 26 },
          xAxis: { ...xAxis, name: '' },
          yAxis: { ...yAxis, splitNumber: 2 },
          tooltip: { show: false },
          series: [
            {
              ...plain,
              data: line(
                found.measured_c.map((v, i) => v - found.modelled_c[i]!),
                (v) => difference(v, unit),
              ),
              lineStyle: { color: ink.ink, width: 1.25 },
            },
          ],
        }
      },
    ]
  }, [found, unit])
  return (
    <>
      <Chart option={over!} height={230} label="Measured reading, the model, and all models that fit as well" />
      <Chart option={left!} height={130} label="What the model leaves of the reading" />
    </>
  )
}
