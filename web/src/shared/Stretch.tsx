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

/** Two handles under a picture, by mouse or arrow keys, aligned with its time axis. */
export function Stretch({ start, end, stretch }: { start: number; end: number; stretch: Chosen }) {
  const value = [Math.max(stretch.from ?? start, start), Math.min(stretch.to ?? end, end)]
  const [moving, setMoving] = useState<number[] | null>(null)
  const shown = moving ?? value
  const whole = stretch.from === undefined && stretch.to === undefined
  return (
    <div style={{ padding: '0 18px 0 58px' }}>
      <Slider
        min={start}
        max={end}
        step={Math.max((end - start) / 400, 1)}
        value={shown}
        getAriaLabel={(i) => (i ? 'End of the stretch' : 'Start of the stretch')}
        getAriaValueText={words}
        onChange={(_, v) => setMoving(v as number[])}
        onChangeCommitted={(_, v) => {
          const [from, to] = v as [number, number]
          setMoving(null)
          if (from <= start && to >= end) stretch.set()
          else stretch.set(from, to)
        }}
      />
      <div className="between small">
        <span className="num" style={{ whiteSpace: 'nowrap' }}>
          {words(shown[0]! - start)}
        </span>
        {whole && !moving ? (
          <span className="dim">judged: the whole run; move the handles to choose a stretch</span>
        ) : (
          <button className="button quiet" onClick={() => stretch.set()}>
            Back to the whole run
          </button>
        )}
        <span className="num" style={{ whiteSpace: 'nowrap' }}>
          {words(shown[1]! - start)}
        </span>
      </div>
    </div>
  )
}
