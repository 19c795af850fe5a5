import { useMemo } from 'react'
import type { Schemas } from '../api/client'
import { axes, Chart, type Ink } from '../shared/Chart'
import { Said } from '../shared/Said'
import { usePreferences } from '../shell/preferences'
import { absolute, say, type Unit } from '../units/quantity'
import type { LadderView } from './plan'

/** The switch fails closed: what happens, what stops it, how long there is. */
export function Stuck({ ladder, stuck }: { ladder: LadderView; stuck: Schemas['StuckView'] }) {
  const { unit } = usePreferences()
  const option = useMemo(() => courses(ladder, stuck, unit), [ladder, stuck, unit])
  return (
    <section aria-label="If the switch fails closed now" className="stack">
      <p className="answer">
        <Said>{stuck.with_limiter}</Said> <Said>{stuck.load}</Said> <Said>{stuck.alone}</Said>
      </p>
      <Chart option={option} height={320} label="Chamber after the switch failed closed: with the limiter, and as a band without it" />
      <p className="answer">
        <b>
          <Said>{stuck.act}</Said>
        </b>
      </p>
      <table className="plain">
        <thead>
          <tr>
            <th>with nothing to stop it</th>
            <th className="right">at the earliest</th>
            <th className="right">likely</th>
            <th className="right">at the latest</th>
          </tr>
        </thead>
        <tbody>
          {stuck.reached.map((r) => (
            <tr key={r.key}>
              <td>
                <Said>{r.name}</Said> <span className="num dim">{say(r.celsius, 'temperature', unit)}</span>
              </td>
              {[r.fast_s, r.likely_s, r.slow_s].map((s, i) => (
                <td key={i} className="right num">
                  {s == null ? 'never' : say(s, 'time', unit)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {stuck.unnoticed.length > 0 && (
        <details>
          <summary>What may have failed already without anybody noticing ({stuck.unnoticed.length})</summary>
          <ul>
            {stuck.unnoticed.map((u) => (
              <li key={u.title}>
                <b>
                  <Said>{u.title}</Said>
                </b>
                : then nothing stops it once <Said>{u.then.join('; ')}</Said>
              </li>
            ))}
          </ul>
          <p className="small">The proof is what finds these.</p>
        </details>
      )}
      <p className="dim small">
        Out of rest at the working temperature. It rests on <Said>{ladder.model}</Said>.
      </p>
    </section>
  )
}

function courses(ladder: LadderView, stuck: Schemas['StuckView'], unit: Unit) {
  const hours = (stuck.time_s.at(-1) ?? 0) > 3 * 3600
  const time = (s: number) => s / (hours ? 3600 : 60)
  const line = (of: number[]) => of.map((c, i) => [time(stuck.time_s[i]!), Math.round(absolute(c, unit) * 10) / 10])
  const weakest = ladder.steps.find((s) => s.key === ladder.weakest)
  const working = ladder.steps.find((s) => s.rung === 'working')
  const marks: Schemas['Step'][] = ladder.steps.filter((s) => s.key === ladder.weakest || s.rung === 'limiter')
  return (ink: Ink) => ({
    ...axes(ink, hours),
    series: [
      {
        type: 'line',
        name: 'earliest',
        data: line(stuck.fast_c),
        symbol: 'none',
        lineStyle: { color: ink.dim, width: 1.5, type: 'dashed' },
      },
      { type: 'line', name: 'likely', data: line(stuck.likely_c), symbol: 'none', lineStyle: { color: ink.dim, width: 2 } },
      { type: 'line', name: 'latest', data: line(stuck.slow_c), symbol: 'none', lineStyle: { color: ink.dim, width: 1.5, type: 'dotted' } },
      {
        type: 'line',
        name: 'with the limiter',
        data: line(stuck.guarded_c),
        symbol: 'none',
        lineStyle: { color: ink.cable, width: 3.5 },
        markLine: {
          silent: true,
          symbol: 'none',
          lineStyle: { color: ink.danger, width: 1.5 },
          label: { position: 'insideStartTop', color: ink.danger, fontFamily: ink.words, fontSize: 14, formatter: '{b}' },
          data: marks.map((s) => ({
            name: s.name,
            yAxis: Math.round(absolute(s.celsius, unit) * 10) / 10,
            label: { position: s.key === ladder.weakest ? 'insideEndTop' : 'insideEndBottom' },
          })),
        },
      },
    ],
    ...(weakest && working && { yAxis: { ...axes(ink, hours).yAxis, ...ends(working.celsius, weakest.celsius, unit) } }),
  })
}

/** From somewhat before work to somewhat beyond what must never be reached. */
function ends(working: number, weakest: number, unit: Unit) {
  const [low, high] = working < weakest ? [working, weakest] : [weakest, working]
  const room = Math.max(high - low, 5)
  return { min: Math.floor(absolute(low - 0.6 * room, unit)), max: Math.ceil(absolute(high + 0.6 * room, unit)) }
}
