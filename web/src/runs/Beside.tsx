import { useMemo, useState } from 'react'
import type { Quantity, Rig, Schemas } from '../api/client'
import { SYMBOL } from '../units/quantity'
import { useTracks } from './data'
import type { Beside, Strip } from './runChart'

interface Line extends Strip {
  kind: string
}

const linesOf = (tracks: Schemas['TrackWindowView'][]): Line[] =>
  tracks.flatMap((t) =>
    t.lines.map((l) => ({
      ...l,
      key: `${t.track} ${l.source}`,
      time_s: t.time_s,
      unit: l.kind ? (SYMBOL[l.kind as Quantity] ?? '') : '',
    })),
  )

/** What other devices showed during a run: which temperatures are drawn beside the reading, and what the strip below shows. */
export function useBeside(rig: Rig, run: Schemas['RunView']) {
  const tracks = useTracks(rig.slug, run)
  const lines = useMemo(() => linesOf(tracks.data ?? []), [tracks.data])
  const [left, setLeft] = useState<string[]>([])
  const [below, setBelow] = useState('')
  const drawn: Beside[] = useMemo(() => lines.filter((l) => l.kind === 'temperature' && !left.includes(l.key)), [lines, left])
  const strip: Strip | null = useMemo(() => lines.find((l) => l.key === below) ?? null, [lines, below])
  return {
    lines,
    drawn,
    strip,
    toggle: (key: string) => setLeft(left.includes(key) ? left.filter((k) => k !== key) : [...left, key]),
    setBelow,
    below,
  }
}

/** The keys of the picture, pressed to leave a line out or to change the strip. */
export function BesideKeys({ beside }: { beside: ReturnType<typeof useBeside> }) {
  const { lines, drawn, toggle, below, setBelow } = beside
  if (!lines.length) return null
  const temperatures = lines.filter((l) => l.kind === 'temperature')
  const others = lines.filter((l) => l.kind !== 'temperature')
  return (
    <div className="row keys">
      {temperatures.map((l) => {
        const on = drawn.some((d) => d.key === l.key)
        return (
          <button key={l.key} className={on ? 'button quiet on' : 'button quiet'} aria-pressed={on} onClick={() => toggle(l.key)}>
            {on && <i className="key" data-dash={drawn.findIndex((d) => d.key === l.key) % 4} aria-hidden />}
            {l.name}
          </button>
        )
      })}
      {others.length > 0 && (
        <label className="row">
          <span className="dim">strip:</span>
          <span className="field">
            <select aria-label="Strip shows" value={below} onChange={(e) => setBelow(e.target.value)}>
              <option value="">output</option>
              {others.map((l) => (
                <option key={l.key} value={l.key}>
                  {l.name}
                </option>
              ))}
            </select>
          </span>
        </label>
      )}
    </div>
  )
}
