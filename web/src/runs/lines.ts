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

/** For every label beginning at a time the row it is written in, so that none lies over another; the time is drawn over so many pixels. */
export function rows(labels: { time_s: number; name: string }[], span_s: number, across: number): number[] {
  const ends: number[] = []
  const found = labels.map(() => 0)
  const inTime = labels.map((_, i) => i).sort((a, b) => labels[a]!.time_s - labels[b]!.time_s)
  for (const i of inTime) {
    const { time_s, name } = labels[i]!
    const free = ends.findIndex((end) => end <= time_s)
    found[i] = free < 0 ? ends.length : free
    ends[found[i]!] = time_s + (name.length * LETTER * span_s) / across
  }
  return found
}
