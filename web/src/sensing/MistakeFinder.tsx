import { useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { api, need, type Schemas } from '../api/client'
import { axes, Chart, type Ink } from '../shared/Chart'
import { NumberField, SelectField } from '../shared/fields'
import { problemOf, Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { absolute, localise, say } from '../units/quantity'
import { SENSORS } from './options'

interface Row {
  display_c: number | null
  true_c: number | null
}

const EMPTY: Row[] = [{ display_c: null, true_c: null }, { display_c: null, true_c: null }]

/** True against displayed temperature for every mistake; pairs seen at the bench rank them. */
export function MistakeFinder({ start }: { start: string }) {
  const { unit } = usePreferences()
  const [sensor, setSensor] = useState(start)
  const [high, setHigh] = useState<number | null>(null)
  const [head, setHead] = useState<number | null>(60)
  const [terminals, setTerminals] = useState<number | null>(25)
  const [lead, setLead] = useState<number | null>(1)
  const [rows, setRows] = useState(EMPTY)
  const [pressed, setPressed] = useState<string | null>(null)
  const thermocouple = !sensor.startsWith('Pt')
  const pairs = rows.filter((r) => r.display_c != null && r.true_c != null) as Schemas['ShownPairRequest'][]
  const body = { sensor, low_c: null, high_c: high, head_c: head ?? 0, terminals_c: terminals ?? 0, lead_ohm: lead ?? 0, pairs }
  const { data, error } = useQuery({
    queryKey: ['mistakes', body],
    queryFn: () => need(api.POST('/api/v1/sensing/mistakes', { body })),
    placeholderData: (before) => before,
    retry: false,
  })
  const ranked = data?.explanations ?? []
  const chosen = pressed ?? (ranked.length ? ranked[0]!.key : 'reversed')
  const option = useMemo(() => (data ? curves(data, chosen, pairs, unit) : null), [data, chosen, unit, pairs])
  const order = ranked.length ? ranked.map((r) => r.key) : (data?.mistakes ?? []).map((m) => m.key)
  const best = ranked[0]

  return (
    <>
      <div className="sensors">
        <div>
          <div className="fields">
            <SelectField
              label="Sensor"
              value={sensor}
              options={SENSORS}
              onChange={(s) => {
                setSensor(s)
                setHigh(null)
                setPressed(null)
              }}
            />
            {thermocouple ? (
              <>
                <NumberField label="Probe's head" kind="temperature" value={head} onChange={setHead} problem={problemOf(error, 'head_c')} />
                <NumberField label="Terminals" kind="temperature" value={terminals} onChange={setTerminals} problem={problemOf(error, 'terminals_c')} />
              </>
            ) : (
              <NumberField label="Both leads together, Ω" value={lead} onChange={setLead} problem={problemOf(error, 'lead_ohm')} />
            )}
            <NumberField label="Up to" kind="temperature" value={high ?? data?.true_c.at(-1) ?? null} onChange={setHigh} problem={problemOf(error, 'low_c')} />
          </div>
          {option && <Chart option={option} height={400} label="Displayed against true temperature" />}
          <Refused error={error} />
          <div className="fields">
            {rows.map((r, i) => (
              <PairFields key={i} index={i} row={r} onChange={(part) => setRows((all) => all.map((x, k) => (k === i ? { ...x, ...part } : x)))} />
            ))}
          </div>
        </div>
        <div>
          <h2>{ranked.length ? 'Likeliest first' : 'Every usual mistake'}</h2>
          {best && (
            <p style={{ margin: '4px 0 8px' }}>
              {best.fits && best.key !== 'right' ? (
                <>
                  <span className="badge fault">fits</span> {localise(best.title, unit)}
                </>
              ) : best.fits ? (
                <>
                  <span className="badge fine">fine</span> Sensor and instrument explain this by themselves.
                </>
              ) : (
                <>
                  <span className="badge advice">open</span> None of these alone explains it.
                </>
              )}
            </p>
          )}
          <ul className="suspects">
            {order.map((key) => {
              const m = data?.mistakes.find((x) => x.key === key)
              const found = ranked.find((r) => r.key === key)
              if (!m) return null
              return (
                <li key={key}>
                  <button aria-pressed={key === chosen} onClick={() => setPressed(key)}>
                    <b>{localise(m.title, unit)}</b>
                    <span className="num">{found ? (found.residual_c == null ? 'no number' : say(found.residual_c, 'temperature_difference', unit)) : ''}</span>
                    {key === chosen && (
                      <span className="says">
                        {localise([m.says, found?.reason, m.test].filter(Boolean).join(' '), unit)}
                      </span>
                    )}
                  </button>
                </li>
              )
            })}
          </ul>
        </div>
      </div>
      {data && ranked.length === 0 && <p className="dim">Enter what the display showed and what was true at the same moment: the mistakes are then ranked by how well they explain it.</p>}
      {ranked.length > 0 && data && <p className="dim">A mistake fits when it comes within {say(data.own_error_c, 'temperature_difference', unit)}, what a new sensor and an ordinary instrument may be off.</p>}
    </>
  )
}

function PairFields({ index, row, onChange }: { index: number; row: Row; onChange: (part: Partial<Row>) => void }) {
  return (
    <>
      <NumberField label={`Display showed (${index + 1})`} kind="temperature" value={row.display_c} onChange={(display_c) => onChange({ display_c })} />
      <NumberField label={`when it was (${index + 1})`} kind="temperature" value={row.true_c} onChange={(true_c) => onChange({ true_c })} />
    </>
  )
}

function curves(data: Schemas['MistakesView'], chosen: string, pairs: Schemas['ShownPairRequest'][], unit: 'C' | 'F') {
  const at = (c: number) => Math.round(absolute(c, unit) * 10) / 10
  const [low, high] = [data.true_c[0] ?? 0, data.true_c.at(-1) ?? 1]
  const span = high - low
  return (ink: Ink) => {
    const base = axes(ink, false)
    const degrees = (v: number) => `${v}°`
    const points = (m: Schemas['MistakeView']) => data.true_c.map((t, i) => [at(t), m.display_c[i] == null ? null : at(m.display_c[i]!)])
    return {
      ...base,
      tooltip: { show: false },
      yAxis: { ...base.yAxis, min: at(low - 0.25 * span), max: at(high + 0.35 * span), axisLabel: { ...base.yAxis.axisLabel, showMinLabel: false, showMaxLabel: false } },
      xAxis: { ...base.xAxis, name: 'true', axisLabel: { ...base.xAxis.axisLabel, formatter: degrees } },
      series: [
        ...data.mistakes.map((m) => ({
          type: 'line',
          name: m.key,
          data: points(m),
          showSymbol: false,
          connectNulls: false,
          z: m.key === chosen ? 5 : m.key === 'right' ? 4 : 2,
          lineStyle: {
            color: m.key === chosen ? ink.danger : m.key === 'right' ? ink.ink : ink.line,
            width: m.key === chosen ? 3.5 : m.key === 'right' ? 2.5 : 1.2,
          },
          endLabel: { show: m.key === 'right', formatter: 'right', color: ink.ink, fontFamily: ink.words, fontSize: 14, offset: [-40, 14] },
        })),
        {
          type: 'line',
          name: 'seen',
          data: pairs.map((p) => [at(p.true_c), at(p.display_c)]),
          lineStyle: { opacity: 0 },
          symbol: 'rect',
          symbolSize: 13,
          itemStyle: { color: ink.cable },
          z: 9,
        },
      ],
    }
  }
}
