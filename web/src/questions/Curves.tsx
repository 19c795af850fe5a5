import { useMemo } from 'react'
import type { Quantity } from '../api/client'
import { axes, Chart, type Ink } from '../shared/Chart'
import { usePreferences } from '../shell/preferences'
import { mark } from '../units/decimal'
import { said } from '../units/message'
import { absolute, difference, quantity, type Unit } from '../units/quantity'
import type { Answer } from './data'

type Picture = NonNullable<Answer['curves']>

/** Curves of an answer, in the unit chosen. */
export function CurvesPicture({ curves, label, front }: { curves: Picture; label: string; front: string }) {
  const { unit } = usePreferences()
  const option = useMemo(() => (ink: Ink) => drawn(brought(curves, front), unit, ink), [curves, unit, front])
  return <Chart option={option} height={curves.lines.length > 6 ? 380 : 260} label={label} />
}

function shown(value: number, kind: Quantity, unit: Unit): number {
  if (kind === 'temperature') return absolute(value, unit)
  if (kind === 'temperature_difference' || kind === 'temperature_rate') return difference(value, unit)
  return value
}

function symbol(kind: Quantity, unit: Unit): string {
  return quantity(1, kind, unit).unit
}

/** The curve pressed comes to the front; the one that stood there steps back. */
function brought(curves: Picture, front: string): Picture {
  if (!front || !curves.lines.some((l) => l.key === front)) return curves
  const sort = (l: Picture['lines'][number]) => (l.key === front ? 'main' : l.key && l.sort === 'main' ? 'faint' : l.sort)
  return { ...curves, lines: curves.lines.map((l) => ({ ...l, sort: sort(l) })) }
}

function drawn(curves: Picture, unit: Unit, ink: Ink) {
  const base = axes(ink, false)
  const point = (x: number, y: number | null) => [shown(x, curves.x.kind, unit), y == null ? null : shown(y, curves.y.kind, unit)]
  const name = (axis: Picture['x']) => [said(axis.label, unit), symbol(axis.kind, unit)].filter(Boolean).join(', ')
  const style = {
    main: { color: ink.cable, width: 3 },
    other: { color: ink.dim, width: 2.5, type: 'dashed' },
    limit: { color: ink.danger, width: 2, type: 'dotted' },
    faint: { color: ink.line, width: 1.5 },
  }
  const named = new Set<string>()
  const places = placed(curves)
  return {
    ...base,
    tooltip: { show: false },
    grid: { left: 76, right: 28, top: 34, bottom: 52 },
    xAxis: {
      ...base.xAxis,
      type: curves.x.log ? 'log' : 'value',
      name: name(curves.x),
      axisLabel: { ...base.xAxis.axisLabel, hideOverlap: true, formatter: plain },
    },
    yAxis: {
      ...base.yAxis,
      name: name(curves.y),
      ...(curves.y.low == null ? {} : { min: shown(curves.y.low, curves.y.kind, unit) }),
      ...(curves.y.high == null ? {} : { max: shown(curves.y.high, curves.y.kind, unit) }),
      nameLocation: 'end',
      nameTextStyle: { color: ink.dim, fontFamily: ink.words, fontSize: 14, align: 'left', padding: [0, 0, 0, -60] },
      axisLabel: {
        ...base.yAxis.axisLabel,
        formatter: (v: number) => mark(String(v)),
        ...(curves.y.low == null ? {} : { showMinLabel: false }),
        ...(curves.y.high == null ? {} : { showMaxLabel: false }),
      },
    },
    series: [
      ...curves.lines.map((l) => {
        const first = !named.has(l.name)
        named.add(l.name)
        return {
          type: 'line',
          data: l.x.map((x, i) => point(x, l.y[i] ?? null)),
          showSymbol: false,
          z: l.sort === 'main' ? 4 : l.sort === 'faint' ? 1 : 3,
          lineStyle: style[l.sort as keyof typeof style],
          // the name stands along the curve, where it belongs to it alone
          label: {
            show: true,
            color: l.sort === 'limit' ? ink.danger : l.sort === 'main' ? ink.cable : ink.dim,
            fontFamily: ink.words,
            fontSize: 15,
            fontWeight: 600,
          },
          ...(first && l.sort !== 'faint' && (curves.lines.length > 1 || l.sort === 'limit')
            ? {
                markPoint: beside(
                  said(l.name, unit),
                  point(...places.get(l)!),
                  nearLeft(places.get(l)![0], curves),
                  l.sort === 'limit' ? ink.danger : l.sort === 'main' ? ink.cable : ink.dim,
                  ink,
                ),
              }
            : {}),
        }
      }),
      {
        type: 'line',
        data: curves.marks.map((m) => point(m.x, m.y)),
        lineStyle: { width: 0 },
        symbol: 'circle',
        symbolSize: 13,
        itemStyle: { color: ink.ink },
        label: {
          show: true,
          position: 'bottom',
          color: ink.ink,
          fontFamily: ink.words,
          fontSize: 15,
          fontWeight: 600,
          formatter: (p: { dataIndex: number }) =>
            said(
              curves.marks.findIndex((m) => m.label === curves.marks[p.dataIndex]?.label) === p.dataIndex
                ? curves.marks[p.dataIndex]!.label
                : '',
              unit,
            ),
        },
      },
    ],
  }
}

/** Axis ends that are not round numbers stay unlabelled. */
const plain = (v: number) => {
  const text = String(Math.round(v * 1e4) / 1e4)
  return text.length > 6 ? '' : mark(text)
}

const ALONG = [0.12, 0.25, 0.38, 0.5, 0.62, 0.72, 0.85]

/** Where each name stands along its curve: as far as can be from the marks and from the names before it. */
function placed(curves: Picture): Map<Picture['lines'][number], [number, number]> {
  const taken = curves.marks.map((m) => m.x)
  const found = new Map<Picture['lines'][number], [number, number]>()
  for (const line of curves.lines.filter((l) => l.sort !== 'faint')) {
    const drawnAt = line.x.map((_, i) => i).filter((i) => line.y[i] != null)
    const choices = ALONG.map((share) => drawnAt[Math.floor(drawnAt.length * share)] ?? 0)
    const room = (i: number) => Math.min(...taken.map((x) => Math.abs(x - line.x[i]!)), Infinity)
    const usual = choices[line.sort === 'other' ? 5 : 2]!
    const best = taken.length ? choices.reduce((a, b) => (room(b) > room(a) ? b : a), usual) : usual
    found.set(line, [line.x[best] ?? 0, line.y[best] ?? 0])
    taken.push(line.x[best] ?? 0)
  }
  return found
}

/** A name that would run out at the left stands to the right of its curve. */
function nearLeft(x: number, curves: Picture): boolean {
  const xs = curves.lines.flatMap((l) => [l.x[0] ?? 0, l.x.at(-1) ?? 0])
  const [low, high] = [Math.min(...xs), Math.max(...xs)]
  return (x - low) / (high - low || 1) < 0.15
}

function beside(text: string, at: (number | null)[], left: boolean, color: string, ink: Ink) {
  return {
    symbol: 'circle',
    symbolSize: 1,
    silent: true,
    data: [{ coord: at }],
    label: {
      show: true,
      position: left ? 'right' : 'top',
      distance: 6,
      formatter: text,
      color,
      fontFamily: ink.words,
      fontSize: 15,
      fontWeight: 600,
      backgroundColor: ink.paper,
      padding: [1, 4],
    },
  }
}
