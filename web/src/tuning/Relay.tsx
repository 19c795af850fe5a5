import { useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { api, need, type Rig, type Schemas } from '../api/client'
import { axes, Chart, type Ink } from '../shared/Chart'
import { Fig } from '../shared/Fig'
import { NumberField } from '../shared/fields'
import { Said } from '../shared/Said'
import { Segments } from '../shared/Segments'
import { problemOf, Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { Driven } from './Driven'
import { absolute, capital, say, type Unit } from '../units/quantity'

type Kind = Schemas['RelayInputRequest']['kind']
type View = Schemas['RelayView']

const HOURS_FROM = 4 * 3600

/** What a controller that tunes itself will do to this rig, before it is let. */
export function Relay({ rig }: { rig: Rig }) {
  const { unit } = usePreferences()
  const [open, setOpen] = useState(false)
  const [kind, setKind] = useState<Kind>('own')
  const [setpoint, setSetpoint] = useState<number | null>(null)
  const told = useQuery({
    queryKey: ['of', rig.slug, 'relay', rig.revision, kind, setpoint],
    enabled: open,
    queryFn: () =>
      need(api.POST('/api/v1/rigs/{slug}/tuning/relay', { params: { path: { slug: rig.slug } }, body: { kind, setpoint_c: setpoint } })),
    placeholderData: (before) => before,
    retry: false,
  })
  const option = useMemo(() => (told.data ? picture(told.data, unit) : null), [told.data, unit])
  return (
    <details className="fold-out" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>
        <h2>If the controller tunes itself</h2>
        <span className="dim"> what it will do to this rig, before it is let</span>
      </summary>
      <div className="row">
        <Segments
          label="How it is made"
          value={kind}
          options={[
            ['own', 'the controller’s own: all or nothing'],
            ['biased', 'round the power that holds it'],
          ]}
          onChange={(k) => (setKind(k), setSetpoint(null))}
        />
        <NumberField
          label="Test set-point"
          kind="temperature"
          value={setpoint ?? told.data?.setpoint_c ?? null}
          onChange={(typed, wrong) => !wrong && setSetpoint(typed)}
          problem={problemOf(told.error, 'setpoint_c')}
        />
      </div>
      <Refused error={told.error} />
      {told.data && option && (
        <>
          {told.data.hard.length > 0 && (
            <div className="caution" role="status">
              <strong>Not at this set-point.</strong> It may reach{' '}
              {told.data.hard.map((e) => `${e.name} (${say(e.celsius, 'temperature', unit)})`).join(', ')}.{' '}
              {told.data.clear_c !== null && told.data.clear_c > rig.purpose.ambient_c && (
                <button type="button" className="button quiet" onClick={() => setSetpoint(told.data.clear_c)}>
                  Test at {say(told.data.clear_c, 'temperature', unit)}
                </button>
              )}
            </div>
          )}
          <Chart option={option} height={240} label="The relay test, simulated" />
          <div className="row">
            {told.data.figures.map((f) => (
              <span key={f.name} className="dim">
                <Said>{capital(f.name)}</Said> <Fig figure={f} /> {f.high != null && `up to ${say(f.high, f.kind, unit)}`}
              </span>
            ))}
          </div>
          <h3>Before it begins</h3>
          <ol>
            {told.data.says.map((line) => (
              <li key={line}>
                <Said>{line}</Said>
              </li>
            ))}
          </ol>
          {kind === 'own' && <Driven rig={rig} setpoint={told.data.setpoint_c} />}
          {told.data.recorded.length > 0 && (
            <>
              <h3>What the cycles of your run would give by themselves</h3>
              <ul>
                {told.data.recorded.map((f) => (
                  <li key={f.name}>
                    <Said>{capital(f.name)}</Said> <Fig figure={f} />: <Said>{f.reason}</Said>
                  </li>
                ))}
              </ul>
            </>
          )}
        </>
      )}
    </details>
  )
}

function picture(told: View, unit: Unit) {
  const hours = (told.time_s.at(-1) ?? 0) > HOURS_FROM
  const x = (t: number) => Math.round((t / (hours ? 3600 : 60)) * 1000) / 1000
  const at = (celsius: number) => Math.round(absolute(celsius, unit) * 100) / 100
  const edges = [...told.hard, ...told.soft]
  return (ink: Ink) => ({
    ...axes(ink, hours),
    tooltip: { show: false },
    series: [
      {
        type: 'line',
        showSymbol: false,
        data: told.time_s.map((t, i) => [x(t), at(told.reading_c[i] ?? 0)]),
        lineStyle: { color: ink.cable, width: 3 },
        markLine: {
          silent: true,
          symbol: 'none',
          label: {
            color: ink.ink,
            fontFamily: ink.words,
            fontSize: 14,
            position: 'insideEndTop',
            formatter: (p: { name: string }) => p.name,
          },
          data: [
            { yAxis: at(told.setpoint_c), name: 'test set-point', lineStyle: { color: ink.ink, type: 'dotted', width: 1.5 } },
            ...edges.map((e) => ({
              yAxis: at(e.celsius),
              name: e.name,
              label: { position: 'insideStartTop' },
              lineStyle: { color: ink.fault, type: 'dashed', width: 1.5 },
            })),
          ],
        },
      },
    ],
  })
}
