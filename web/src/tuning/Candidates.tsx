import { useMemo } from 'react'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useInAddress } from '../api/address'
import { useChange } from '../api/hooks'
import { axes, Chart, type Ink } from '../shared/Chart'
import { Fig } from '../shared/Fig'
import { Said } from '../shared/Said'
import { Segments } from '../shared/Segments'
import { Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { said } from '../units/message'
import { absolute, fixed } from '../units/quantity'

type Candidate = Schemas['CandidateView']
type Priority = 'no_overshoot' | 'fast' | 'gentle'

const PRIORITIES = [
  ['no_overshoot', 'no overshoot'],
  ['fast', 'fast'],
  ['gentle', 'gentle on the switch'],
] as const

const WINDOW: Record<string, string> = { may_leave: 'may leave it', leaves: 'leaves it' }

/** Line colours that stay apart for colour-blind eyes; dashes tell them apart in black and white. */
const LINES = [
  { day: '#d8450f', night: '#ff8a52', type: 'solid' },
  { day: '#2c5a6b', night: '#7fb4c4', type: 'solid' },
  { day: '#7a6a2c', night: '#cdbb6a', type: [8, 3] },
  { day: '#6b4c86', night: '#bfa0dc', type: [2, 3] },
]

/** Candidates overlaid on the window, with what each would do in numbers. */
export function Candidates({ rig, data }: { rig: Rig; data: Schemas['TuningView'] }) {
  const { unit, theme } = usePreferences()
  const [priority, setPriority] = useInAddress<Priority>(
    'priority',
    'no_overshoot',
    PRIORITIES.map(([key]) => key),
  )
  const [picked, setPicked] = useInAddress<string>('candidate', '')
  const chosen = data.candidates.find((c) => c.key === picked)?.key ?? data.preferred[priority] ?? data.candidates[0]?.key
  const accept = useChange(rig.slug, (candidate: string) =>
    need(
      api.POST('/api/v1/rigs/{slug}/tuning/accept', { params: { path: { slug: rig.slug } }, body: { revision: rig.revision, candidate } }),
    ),
  )
  const option = useMemo(() => overlay(data, chosen ?? '', unit, theme), [data, chosen, unit, theme])
  const current = data.candidates.find((c) => c.key === chosen)
  const usable = data.identified && !['poor', 'biased'].includes(data.identified.verdict)
  return (
    <section aria-label="Candidates">
      <Chart option={option} height={300} label="Simulated responses of the candidates" />
      <div className="row">
        <Segments
          label="What matters most"
          value={priority}
          options={PRIORITIES}
          onChange={(p) => {
            setPriority(p)
            setPicked('')
          }}
        />
        <span className="dim" style={{ flex: 1, minWidth: 260 }}>
          {said(data.reasons[priority] ?? '', unit)}
        </span>
      </div>
      <table className="plain candidates" style={{ marginTop: 8 }}>
        <thead>
          <tr>
            <th>candidate</th>
            <th className="right">over</th>
            <th className="right">settled</th>
            <th className="right">ripple</th>
            <th className="right">switch/h</th>
            <th className="right">Ms</th>
            <th>window</th>
          </tr>
        </thead>
        <tbody>
          {data.candidates.map((c, i) => (
            <tr key={c.key} className={c.key === chosen ? 'chosen' : ''} onClick={() => setPicked(c.key)}>
              <td>
                <label>
                  <input type="radio" name="candidate" checked={c.key === chosen} onChange={() => setPicked(c.key)} />
                  <span className="swatch" style={{ background: LINES[i % LINES.length]![theme] }} aria-hidden />
                  {c.name}
                </label>
              </td>
              <Metric of={c} name="overshoot" label="over" />
              <Metric of={c} name="settling time" label="settled" otherwise="not yet" />
              <Metric of={c} name="ripple, peak to peak" label="ripple" />
              <Metric of={c} name="switchings per hour" label="switch/h" />
              <td className="right num" data-label="Ms">
                {c.ms ? <Fig figure={c.ms} /> : c.key === 'on_off' ? '–' : 'unstable'}
                {c.ms && <span className="dim"> {c.ms.high == null ? '…swings' : `…${fixed(c.ms.high, 2)}`}</span>}
              </td>
              <td data-label="window">{c.window === 'holds' ? 'holds' : <b style={{ color: 'var(--fault)' }}>{WINDOW[c.window]}</b>}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {current && (
        <div className="row" style={{ marginTop: 14 }}>
          <button className="button main" disabled={!usable || accept.isPending} onClick={() => accept.mutate(current.key)}>
            Use {current.name}
          </button>
          <span className="row" style={{ gap: 14 }}>
            {current.figures.map((f) => (
              <span key={f.name} className="dim">
                <Said>{f.name}</Said> <Fig figure={f} />
              </span>
            ))}
          </span>
          {data.identified?.accepted === current.key && !accept.isPending && <span className="badge fine">in the sheet</span>}
        </div>
      )}
      {!usable && <p className="dim">The process is not known well enough to accept any of these.</p>}
      <Refused error={accept.error} />
    </section>
  )
}

function Metric({ of, name, label, otherwise = '–' }: { of: Candidate; name: string; label: string; otherwise?: string }) {
  const figure = of.metrics.find((m) => m.name === name)
  return (
    <td className="right num" data-label={label}>
      {figure ? <Fig figure={figure} /> : otherwise}
    </td>
  )
}

function overlay(data: Schemas['TuningView'], chosen: string, unit: 'C' | 'F', theme: 'day' | 'night') {
  const last = data.candidates[0]?.time_s.at(-1) ?? 0
  const hours = last > 4 * 3600
  const x = (t: number) => Math.round((t / (hours ? 3600 : 60)) * 1000) / 1000
  const at = (v: number) => Math.round(absolute(v, unit) * 100) / 100
  return (ink: Ink) => {
    const shaded = data.candidates.find((c) => c.key === chosen)
    const band = shaded
      ? [
          {
            type: 'line',
            stack: 'band',
            data: shaded.time_s.map((t, i) => [x(t), at(shaded.low_c[i] ?? 0)]),
            showSymbol: false,
            lineStyle: { opacity: 0 },
            silent: true,
            tooltip: { show: false },
          },
          {
            type: 'line',
            stack: 'band',
            stackStrategy: 'all',
            data: shaded.time_s.map((t, i) => [x(t), Math.round((at(shaded.high_c[i] ?? 0) - at(shaded.low_c[i] ?? 0)) * 100) / 100]),
            showSymbol: false,
            lineStyle: { opacity: 0 },
            areaStyle: { color: LINES[data.candidates.indexOf(shaded) % LINES.length]![theme], opacity: 0.16 },
            silent: true,
          },
        ]
      : []
    return {
      ...axes(ink, hours),
      tooltip: { show: false },
      series: [
        ...band,
        ...data.candidates.map((c, i) => {
          const style = LINES[i % LINES.length]!
          return {
            type: 'line',
            name: c.name,
            data: c.time_s.map((t, k) => [x(t), at(c.reading_c[k] ?? 0)]),
            showSymbol: false,
            z: c.key === chosen ? 5 : 3,
            lineStyle: { color: style[theme], width: c.key === chosen ? 3.5 : 1.8, type: style.type },
            ...(i === 0 && {
              markArea: {
                silent: true,
                itemStyle: { color: ink.fine, opacity: 0.13 },
                label: {
                  show: true,
                  position: 'insideTopRight',
                  color: ink.fine,
                  fontFamily: ink.words,
                  fontSize: 14,
                  formatter: 'process window',
                },
                data: [[{ yAxis: at(data.window_low_c) }, { yAxis: at(data.window_high_c) }]],
              },
              markLine: {
                silent: true,
                symbol: 'none',
                lineStyle: { color: ink.ink, type: 'dotted', width: 1.5 },
                label: {
                  color: ink.ink,
                  fontFamily: ink.words,
                  fontSize: 14,
                  formatter: (p: { name: string }) => p.name,
                  position: 'insideEndTop',
                  rotate: 0,
                  align: 'left',
                  padding: [14, 0, 0, 8],
                },
                data: [
                  { yAxis: at(data.setpoint_c), name: '' },
                  ...(data.disturbance_s == null ? [] : [{ xAxis: x(data.disturbance_s), name: 'door open one minute' }]),
                ],
              },
            }),
          }
        }),
      ],
    }
  }
}
