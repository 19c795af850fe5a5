import type { EChartsCoreOption } from 'echarts/core'
import type { Schemas } from '../api/client'
import { axes, type Ink } from '../shared/Chart'
import { BESIDE, broken, typicalGap, written, type Written, zigzag } from './lines'
import { said } from '../units/message'
import { absolute, type Unit } from '../units/quantity'

type Window = Schemas['WindowView']

/** What another device showed, as it is drawn. */
export interface Beside {
  key: string
  name: string
  time_s: number[]
  low: (number | null)[]
  high: (number | null)[]
}

/** The strip below the reading: the output, or another quantity. */
export interface Strip extends Beside {
  unit: string
}

/** Beside the picture, in pixels. */
const LEFT = 58
const RIGHT = 18

const DASHES = [
  [7, 3],
  [2, 3],
  [10, 3, 2, 3],
  [4, 4],
]

/**
 * Reading with its minimum–maximum envelope, set-point dotted, other temperatures thinner and dashed, and a filled strip below: the
 * output, or what was chosen instead.
 */
export function runOption(
  data: Window,
  events: Schemas['EventView'][],
  unit: Unit,
  tint: string,
  beside: Beside[] = [],
  strip: Strip | null = null,
) {
  const hours = data.end_s - data.start_s > 4 * 3600
  const x = (s: number) => Math.round((s / (hours ? 3600 : 60)) * 1000) / 1000
  const at = (v: number | null | undefined) => (v == null ? null : Math.round(absolute(v, unit) * 100) / 100)
  const gap = typicalGap(data.time_s)
  const marked = events.filter((e) => e.kind !== 'import').map((e) => ({ time_s: e.time_s, name: short(said(e.text, unit)) }))
  return (ink: Ink, width: number): EChartsCoreOption => {
    const labels = written(marked, data.start_s, data.end_s - data.start_s, width - LEFT - RIGHT)
    const base = axes(ink, hours)
    const span = { min: x(data.start_s), max: x(data.end_s) }
    const text = { color: ink.ink, fontFamily: ink.figures, fontSize: 13, formatter: strip ? `{value}${strip.unit}` : '{value}%' }
    const lower: Beside = strip ?? { key: 'output', name: 'output', time_s: data.time_s, low: data.output_low, high: data.output_high }
    const isBare = lower.low.every((v) => v == null)
    return {
      ...base,
      tooltip: {
        ...base.tooltip,
        backgroundColor: ink.ink,
        textStyle: { ...base.tooltip.textStyle, color: ink.shade.includes('127') ? '#14171a' : '#fcfbf7' },
      },
      grid: [
        { left: LEFT, right: RIGHT, top: 22, bottom: isBare ? 42 : 118 },
        { left: LEFT, right: RIGHT, height: isBare ? 0 : 44, bottom: 42 },
      ],
      xAxis: [
        { ...base.xAxis, ...span, gridIndex: 0, name: '', axisLabel: { show: false } },
        { ...base.xAxis, ...span, gridIndex: 1 },
      ],
      yAxis: [
        { ...base.yAxis, gridIndex: 0 },
        {
          type: 'value',
          gridIndex: 1,
          show: !isBare,
          min: 0,
          ...(strip ? { splitNumber: 2 } : { max: 100, interval: 50 }),
          axisLabel: text,
          splitLine: { lineStyle: { color: ink.hair } },
          axisLine: { show: false },
        },
      ],
      axisPointer: { link: [{ xAxisIndex: 'all' }] },
      series: [
        line(
          'set-point',
          broken(data.time_s, data.setpoint, gap).map(([t, v]) => [x(t), at(v)]),
          { color: ink.ink, width: 2, type: 'dotted' },
          'end',
        ),
        {
          ...line(
            'reading',
            zigzag(data, gap).map(([t, v]) => [x(t), at(v)]),
            { color: tint, width: 2.5 },
          ),
          markLine: {
            silent: true,
            symbol: 'none',
            lineStyle: { color: ink.fault, type: 'dashed' },
            label: {
              formatter: (p: { name: string }) => p.name,
              color: ink.fault,
              fontFamily: ink.words,
              fontSize: 13,
              position: 'insideEndTop',
              rotate: 0,
              align: 'left',
            },
            data: marked.map((e, i) => ({ xAxis: x(e.time_s), name: labels[i]!.name, label: hung(labels[i]!) })),
          },
        },
        {
          ...line(
            lower.name,
            broken(lower.time_s, lower.high, typicalGap(lower.time_s)).map(([t, v]) => [x(t), v]),
            { color: ink.cable, width: 1 },
            'end',
          ),
          xAxisIndex: 1,
          yAxisIndex: 1,
          areaStyle: { color: ink.cable, opacity: 0.35 },
        },
        ...beside.map((b, i) =>
          line(
            b.name,
            broken(b.time_s, b.high, typicalGap(b.time_s)).map(([t, v]) => [x(t), at(v)]),
            { color: ink.ink, width: 1.5, opacity: 0.75, type: DASHES[i % DASHES.length] },
          ),
        ),
      ],
    }
  }
}

const line = (name: string, data: unknown[], lineStyle: object, step?: string) => ({
  name,
  type: 'line',
  data,
  showSymbol: false,
  connectNulls: false,
  step,
  lineStyle,
  itemStyle: { color: (lineStyle as { color: string }).color },
  large: true,
})

/** A label that hangs from the top of its line, so many rows down, on its side of it. */
function hung({ row, left }: Written) {
  const sides = left ? { align: 'right' } : {}
  const [right, beside] = left ? [BESIDE, 0] : [0, BESIDE]
  return row
    ? { ...sides, verticalAlign: 'top', padding: [10 + 16 * (row - 1), right, 0, beside] }
    : { ...sides, padding: [14, right, 0, beside] }
}

const short = (text: string) => (text.length > 34 ? `${text.slice(0, 33)}…` : text)
