import { useMemo } from 'react'
import type { Quantity } from '../api/client'
import { axes, Chart, type Ink } from '../shared/Chart'
import { usePreferences } from '../shell/preferences'
import { absolute, difference, quantity, type Unit } from '../units/quantity'
import type { Answer } from './data'

type Picture = NonNullable<Answer['curves']>

/** Curves of an answer, in the unit chosen. */
export function CurvesPicture({ curves, label }: { curves: Picture; label: string }) {
  const { unit } = usePreferences()
  const option = useMemo(() => (ink: Ink) => drawn(curves, unit, ink), [curves, unit])
  return <Chart option={option} height={260} label={label} />
}

function shown(value: number, kind: Quantity, unit: Unit): number {
  if (kind === 'temperature') return absolute(value, unit)
  if (kind === 'temperature_difference' || kind === 'temperature_rate') return difference(value, unit)
  return value
}

function symbol(kind: Quantity, unit: Unit): string {
  return quantity(1, kind, unit).unit
}

function drawn(curves: Picture, unit: Unit, ink: Ink) {
  const base = axes(ink, false)
  const point = (x: number, y: number) => [shown(x, curves.x.kind, unit), shown(y, curves.y.kind, unit)]
  const name = (axis: Picture['x']) => [axis.label, symbol(axis.kind, unit)].filter(Boolean).join(', ')
  const style = { main: { color: ink.cable, width: 3 }, other: { color: ink.dim, width: 2.5, type: 'dashed' }, limit: { color: ink.danger, width: 2, type: 'dotted' } }
  const named = new Set<string>()
  return {
    ...base,
    tooltip: { show: false },
    grid: { left: 76, right: 28, top: 34, bottom: 52 },
    xAxis: { ...base.xAxis, type: curves.x.log ? 'log' : 'value', name: name(curves.x), axisLabel: { ...base.xAxis.axisLabel, hideOverlap: true, formatter: plain } },
    yAxis: {
      ...base.yAxis,
      name: name(curves.y),
      nameLocation: 'end',
      nameTextStyle: { color: ink.dim, fontFamily: ink.words, fontSize: 14, align: 'left', padding: [0, 0, 0, -60] },
      axisLabel: { ...base.yAxis.axisLabel, formatter: (v: number) => String(v) },
    },
    series: [
      ...curves.lines.map((l) => {
        const first = !named.has(l.name)
        named.add(l.name)
        return {
          type: 'line',
          data: l.x.map((x, i) => point(x, l.y[i]!)),
          showSymbol: false,
          lineStyle: style[l.sort as keyof typeof style],
          // the name stands along the curve, where it belongs to it alone
          label: { show: true, color: l.sort === 'limit' ? ink.danger : l.sort === 'main' ? ink.cable : ink.dim, fontFamily: ink.words, fontSize: 15, fontWeight: 600 },
          ...(first && (curves.lines.length > 1 || l.sort === 'limit') ? { markPoint: beside(l.name, point(...middle(l)), l.sort === 'limit' ? ink.danger : l.sort === 'main' ? ink.cable : ink.dim, ink) } : {}),
        }
      }),
      {
        type: 'line',
        data: curves.marks.map((m) => point(m.x, m.y)),
        lineStyle: { width: 0 },
        symbol: 'circle',
        symbolSize: 13,
        itemStyle: { color: ink.ink },
        label: { show: true, position: 'top', color: ink.ink, fontFamily: ink.words, fontSize: 15, fontWeight: 600, formatter: (p: { dataIndex: number }) => curves.marks[p.dataIndex]?.label ?? '' },
      },
    ],
  }
}

/** Axis ends that are not round numbers stay unlabelled. */
const plain = (v: number) => (String(Math.round(v * 1e4) / 1e4).length > 6 ? '' : String(Math.round(v * 1e4) / 1e4))

function middle(line: Picture['lines'][number]): [number, number] {
  const i = Math.floor(line.x.length * (line.sort === 'other' ? 0.72 : 0.38))
  return [line.x[i] ?? 0, line.y[i] ?? 0]
}

function beside(text: string, at: number[], color: string, ink: Ink) {
  return { symbol: 'circle', symbolSize: 1, silent: true, data: [{ coord: at }], label: { show: true, position: 'top', distance: 6, formatter: text, color, fontFamily: ink.words, fontSize: 15, fontWeight: 600, backgroundColor: ink.paper, padding: [1, 4] } }
}
