import { useMemo } from 'react'
import type { Schemas } from '../api/client'
import { axes, Chart, type Ink } from '../shared/Chart'
import { usePreferences } from '../shell/preferences'
import { absolute, type Unit } from '../units/quantity'
import { LINES, type Course, type Trial } from './lines'

export interface Line {
  key: string
  name: string
  course: Course
}

interface Props {
  data: Schemas['TuningView']
  lines: Line[]
  chosen: string
  trial: Trial
  name: string
}

/** Responses over each other on the process window; shaded where the chosen one may run. */
export function Responses({ data, lines, chosen, trial, name }: Props) {
  const { unit, theme } = usePreferences()
  const option = useMemo(() => overlay(data, lines, chosen, trial, unit, theme), [data, lines, chosen, trial, unit, theme])
  return <Chart option={option} height={300} label={`${name}: simulated responses`} />
}

const HOURS_FROM = 4 * 3600

function overlay(data: Schemas['TuningView'], lines: Line[], chosen: string, trial: Trial, unit: Unit, theme: 'day' | 'night') {
  const hours = Math.max(0, ...lines.map((l) => l.course.time_s.at(-1) ?? 0)) > HOURS_FROM
  const x = (t: number) => Math.round((t / (hours ? 3600 : 60)) * 1000) / 1000
  const at = (celsius: number) => Math.round(absolute(celsius, unit) * 100) / 100
  const curve = (c: Course, of: number[]) => c.time_s.map((t, i) => [x(t), at(of[i] ?? 0)])
  return (ink: Ink) => {
    const shaded = lines.find((l) => l.key === chosen)
    const colour = (key: string) => LINES[lines.findIndex((l) => l.key === key) % LINES.length]![theme]
    const invisible = { type: 'line', showSymbol: false, silent: true, lineStyle: { opacity: 0 } }
    const band = shaded
      ? [
          { ...invisible, stack: 'band', data: curve(shaded.course, shaded.course.low_c) },
          {
            ...invisible,
            stack: 'band',
            stackStrategy: 'all',
            data: shaded.course.time_s.map((t, i) => [
              x(t),
              Math.round((at(shaded.course.high_c[i] ?? 0) - at(shaded.course.low_c[i] ?? 0)) * 100) / 100,
            ]),
            areaStyle: { color: colour(shaded.key), opacity: 0.16 },
          },
        ]
      : []
    const first = lines[0]?.course
    const asked = first && trial !== 'heat_up' ? [{ ...invisible, data: curve(first, first.setpoint_c), lineStyle: dotted(ink) }] : []
    return {
      ...axes(ink, hours),
      tooltip: { show: false },
      series: [
        ...band,
        ...asked,
        ...lines.map((l, i) => {
          const style = LINES[i % LINES.length]!
          return {
            type: 'line',
            name: l.name,
            data: curve(l.course, l.course.reading_c),
            showSymbol: false,
            z: l.key === chosen ? 5 : 3,
            lineStyle: { color: style[theme], width: l.key === chosen ? 3.5 : 1.8, type: style.type },
            ...(i === 0 && marks(ink, at(data.window_low_c), at(data.window_high_c), trial === 'heat_up' ? at(data.setpoint_c) : null)),
          }
        }),
      ],
    }
  }
}

const dotted = (ink: Ink) => ({ color: ink.ink, type: 'dotted', width: 1.5 })

const marks = (ink: Ink, low: number, high: number, setpoint: number | null) => ({
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
    data: [[{ yAxis: low }, { yAxis: high }]],
  },
  ...(setpoint !== null && {
    markLine: { silent: true, symbol: 'none', lineStyle: dotted(ink), label: { show: false }, data: [{ yAxis: setpoint }] },
  }),
})
