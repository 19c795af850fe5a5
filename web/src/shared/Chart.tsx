import { LineChart } from 'echarts/charts'
import {
  DataZoomComponent,
  GridComponent,
  MarkAreaComponent,
  MarkLineComponent,
  MarkPointComponent,
  TooltipComponent,
} from 'echarts/components'
import * as echarts from 'echarts/core'
import type { EChartsCoreOption } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import { useEffect, useRef } from 'react'
import { usePreferences } from '../shell/preferences'
import { useWidth } from './useWidth'

echarts.use([
  LineChart,
  GridComponent,
  TooltipComponent,
  MarkAreaComponent,
  MarkLineComponent,
  MarkPointComponent,
  DataZoomComponent,
  CanvasRenderer,
])

interface Props {
  /** Built anew for each theme, from the tokens given, and for each width in pixels. */
  option: (ink: Ink, width: number) => EChartsCoreOption
  height: number
  label: string
  onZoom?: (start: number, end: number) => void
}

export interface Ink {
  ink: string
  dim: string
  hair: string
  line: string
  cable: string
  danger: string
  fault: string
  fine: string
  shade: string
  paper: string
  words: string
  figures: string
}

function tokens(): Ink {
  const style = getComputedStyle(document.documentElement)
  const get = (name: string) => style.getPropertyValue(`--${name}`).trim()
  const names = ['ink', 'dim', 'hair', 'line', 'cable', 'danger', 'fault', 'fine', 'shade', 'paper', 'words', 'figures'] as const
  return Object.fromEntries(names.map((n) => [n, get(n)])) as unknown as Ink
}

/** A series drawn by ECharts in the house's ink. */
export function Chart({ option, height, label }: Props) {
  const { theme } = usePreferences()
  const place = useRef<HTMLDivElement>(null)
  const chart = useRef<echarts.ECharts | null>(null)
  const width = useWidth(place)

  useEffect(() => {
    const made = echarts.init(place.current!, undefined, { renderer: 'canvas' })
    chart.current = made
    const watch = new ResizeObserver(() => made.resize())
    watch.observe(place.current!)
    return () => {
      watch.disconnect()
      made.dispose()
      chart.current = null
    }
  }, [])

  useEffect(() => {
    // the theme attribute is set by an effect of a parent, which runs after this one: wait for it
    const frame = requestAnimationFrame(() =>
      chart.current?.setOption({ animation: false, ...option(tokens(), width) }, { notMerge: true }),
    )
    return () => cancelAnimationFrame(frame)
  }, [option, theme, width])

  return <div className="chart" ref={place} style={{ height }} role="img" aria-label={label} />
}

/** Axes every chart here shares: time in minutes or hours below, temperature at the left. */
export function axes(ink: Ink, hours: boolean) {
  const degrees = (value: number) => `${value}°`
  /** The first label is where the data begins, which need not be a round time. */
  const round = (value: number) => ((String(value).split('.')[1] ?? '').length > 2 ? '' : String(value))
  const text = { color: ink.ink, fontFamily: ink.figures, fontSize: 14 }
  return {
    grid: { left: 58, right: 18, top: 22, bottom: 44 },
    tooltip: {
      trigger: 'axis',
      renderMode: 'richText',
      backgroundColor: ink.ink,
      borderWidth: 0,
      textStyle: { color: 'inherit', fontFamily: ink.figures, fontSize: 14 },
      axisPointer: { lineStyle: { color: ink.line } },
    },
    xAxis: {
      type: 'value',
      name: hours ? 'hours' : 'minutes',
      nameLocation: 'end',
      nameGap: 8,
      nameTextStyle: { color: ink.dim, fontFamily: ink.words, fontSize: 14, align: 'right', verticalAlign: 'top', padding: [26, 0, 0, 0] },
      axisLine: { lineStyle: { color: ink.line } },
      axisTick: { show: false },
      splitLine: { show: false },
      axisLabel: { ...text, showMaxLabel: false, formatter: round },
      min: 'dataMin',
      max: 'dataMax',
    },
    yAxis: {
      type: 'value',
      axisLine: { show: false },
      axisTick: { show: false },
      scale: true,
      splitLine: { lineStyle: { color: ink.hair } },
      axisLabel: { ...text, formatter: degrees },
    },
  }
}
