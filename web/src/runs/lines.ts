import type { Schemas } from '../api/client'

type Window = Pick<Schemas['WindowView'], 'time_s' | 'reading_low' | 'reading_high'>

/** Five usual sampling intervals: anything longer is a gap. */
export function typicalGap(times: number[]): number {
  if (times.length < 3) return Infinity
  const steps = times.slice(1).map((t, i) => t - times[i]!)
  steps.sort((a, b) => a - b)
  return 5 * (steps[Math.floor(steps.length / 2)] ?? 0)
}

/** The line is lifted where the record has a gap: nothing is drawn that was not measured. */
export function broken(times: number[], values: (number | null)[], gap: number): [number, number | null][] {
  const found: [number, number | null][] = []
  times.forEach((t, i) => {
    const before = times[i - 1]
    if (before !== undefined && t - before > gap) found.push([before, null])
    found.push([t, values[i] ?? null])
  })
  return found
}

/** Minimum and maximum of every bucket in turn, lifted at gaps like any line. */
export function zigzag(data: Window, gap: number): [number, number | null][] {
  const found: [number, number | null][] = []
  data.time_s.forEach((t, i) => {
    const before = data.time_s[i - 1]
    if (before !== undefined && t - before > gap) found.push([before, null])
    const [low, high] = [data.reading_low[i] ?? null, data.reading_high[i] ?? null]
    found.push([t, low])
    if (high !== low) found.push([t, high])
  })
  return found
}

/** A letter of a label, in pixels, with what keeps two of them apart. */
const LETTER = 7
/** Between a line and its label, in pixels. */
export const BESIDE = 8

/** Where a label is written: the row, and on which side of its line; its words as far as there is room. */
export interface Written {
  row: number
  left: boolean
  name: string
}

/**
 * For every label at a time where it is written, so that none lies over another and none is cut; the span from its start is drawn over so
 * many pixels. One that has no room to the right of its line stands to the left, and where there is none either it is shortened.
 */
export function written(labels: { time_s: number; name: string }[], start_s: number, span_s: number, across: number): Written[] {
  const placed = labels.map(({ time_s, name }) => {
    const at = ((time_s - start_s) / span_s) * across
    const left = at + BESIDE + name.length * LETTER > across && at > across / 2
    const letters = Math.max(Math.floor(((left ? at : across - at) - BESIDE) / LETTER), 1)
    const told = name.length > letters ? `${name.slice(0, letters - 1)}…` : name
    const width = told.length * LETTER
    return { left, name: told, from: left ? at - width : at, to: left ? at : at + width }
  })
  const ends: number[] = []
  const row = placed.map(() => 0)
  const inOrder = placed.map((_, i) => i).sort((a, b) => placed[a]!.from - placed[b]!.from)
  for (const i of inOrder) {
    const free = ends.findIndex((end) => end <= placed[i]!.from)
    row[i] = free < 0 ? ends.length : free
    ends[row[i]!] = placed[i]!.to
  }
  return placed.map(({ left, name }, i) => ({ row: row[i]!, left, name }))
}
