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
