import Slider from '@mui/material/Slider'
import { useState } from 'react'
import { duration } from '../units/quantity'

export interface Chosen {
  from?: number
  to?: number
  set: (from?: number, to?: number) => void
}

/** A stretch of a run in seconds; undefined is the whole of it. */
export function useStretch(from?: number, to?: number): Chosen {
  const [ends, setEnds] = useState<{ from?: number; to?: number }>({ from, to })
  return { ...ends, set: (f, t) => setEnds({ from: f, to: t }) }
}

const words = (s: number) => Object.values(duration(s)).join(' ')

interface HandlesProps {
  start: number
  end: number
  value: [number, number]
  labels: [string, string]
  /** Of what is left out rather than looked at. */
  out?: boolean
  onMove?: (value: [number, number] | null) => void
  onChange: (from: number, to: number) => void
}

/** Two handles under a picture, by mouse or arrow keys, aligned with its time axis. */
export function Handles({ start, end, value, labels, out, onMove, onChange }: HandlesProps) {
  const [moving, setMoving] = useState<[number, number] | null>(null)
  const move = (next: [number, number] | null) => (setMoving(next), onMove?.(next))
  return (
    <Slider
      min={start}
      max={end}
      step={Math.max((end - start) / 400, 1)}
      value={moving ?? value}
      sx={out ? { color: 'var(--danger)' } : undefined}
      getAriaLabel={(i) => labels[i]!}
      getAriaValueText={words}
      onChange={(_, v) => move(v as [number, number])}
      onChangeCommitted={(_, v) => {
        move(null)
        onChange(...(v as [number, number]))
      }}
    />
  )
}

/** The stretch of a run that is looked at, chosen by its ends. */
export function Stretch({ start, end, stretch }: { start: number; end: number; stretch: Chosen }) {
  const value: [number, number] = [Math.max(stretch.from ?? start, start), Math.min(stretch.to ?? end, end)]
  const [moving, setMoving] = useState<[number, number] | null>(null)
  const shown = moving ?? value
  const whole = stretch.from === undefined && stretch.to === undefined
  return (
    <div className="under-picture">
      <Handles
        start={start}
        end={end}
        value={value}
        labels={['Start of the stretch', 'End of the stretch']}
        onMove={setMoving}
        onChange={(from, to) => (from <= start && to >= end ? stretch.set() : stretch.set(from, to))}
      />
      <div className="between small">
        <span className="num" style={{ whiteSpace: 'nowrap' }}>
          {words(shown[0] - start)}
        </span>
        {whole && !moving ? (
          <span className="dim">judged: the whole run; move the handles to choose a stretch</span>
        ) : (
          <button className="button quiet" onClick={() => stretch.set()}>
            Back to the whole run
          </button>
        )}
        <span className="num" style={{ whiteSpace: 'nowrap' }}>
          {words(shown[1] - start)}
        </span>
      </div>
    </div>
  )
}
