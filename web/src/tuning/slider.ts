/** What a slider goes over, by ratios; ``off``: its left end is nothing at all. */
export interface Range {
  low: number
  high: number
  off?: boolean
}

const STEPS = 1000

export function toPlace(value: number, { low, high, off }: Range): number {
  if (off && value <= 0) return 0
  const place = (Math.log(Math.min(Math.max(value, low), high) / low) / Math.log(high / low)) * STEPS
  return Math.round(off ? Math.max(place, 1) : place)
}

/** Two and a half digits: a slider is no place for more. */
export function fromPlace(place: number, { low, high, off }: Range): number {
  if (off && place <= 0) return 0
  const value = low * (high / low) ** (place / STEPS)
  const digit = 10 ** (Math.floor(Math.log10(value)) - 1) / 2
  return Number((Math.round(value / digit) * digit).toPrecision(4))
}
