import { duration } from '../units/quantity'

export const spoken = (seconds: number) => {
  const { text, unit } = duration(seconds)
  return `${text.replace(/[.,]0$/, '')} ${unit}`
}

export function timeTicks(end: number, width: number): number[] {
  const about = Math.max(Math.floor(width / 150), 2)
  const step =
    [10, 30, 60, 120, 300, 600, 1200, 1800, 3600, 7200, 14400, 21600, 43200, 86400, 172800].find((s) => end / s <= about) ?? 604800
  return Array.from({ length: Math.floor((end * 0.96) / step) + 1 }, (_, i) => i * step)
}

/** How wide what is said of a part may be, how far it stays from a corner's dot, and how far apart two of them stand. */
export const WORDS = 150
export const CLEAR = 12
const ROW = 17

/** Where words stand that begin at ``lefts``: at the head or the foot, a row further in where a corner or other words are already. */
export function placed(
  lefts: number[],
  corners: (readonly [number, number])[],
  [head, foot]: [number, number],
): (readonly [number, number])[] {
  const found: (readonly [number, number])[] = []
  for (const left of lefts) {
    const free = ([, y]: readonly [number, number]) =>
      !corners.some(([cx, cy]) => cx > left - CLEAR && cx < left + WORDS && Math.abs(cy - y) < ROW) &&
      !found.some(([other, at]) => Math.abs(other - left) < WORDS && Math.abs(at - y) < ROW)
    const slots = lefts.flatMap((_, i) => [[left, head + ROW * i] as const, [left, foot - ROW * i] as const])
    found.push(slots.find(free) ?? slots[0]!)
  }
  return found
}
