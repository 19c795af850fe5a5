/** Move labels apart by at least ``gap``, keeping their order and the picture's bounds. */
export function spread<T extends { y: number }>(items: T[], gap: number, height: number): (T & { label: number })[] {
  const sorted = [...items].sort((a, b) => a.y - b.y).map((i) => ({ ...i, label: Math.min(Math.max(i.y, 18), height - 18) }))
  for (let i = 1; i < sorted.length; i++) sorted[i]!.label = Math.max(sorted[i]!.label, sorted[i - 1]!.label + gap)
  const over = (sorted.at(-1)?.label ?? 0) - (height - 18)
  if (over > 0) {
    sorted.at(-1)!.label -= over
    for (let i = sorted.length - 2; i >= 0; i--) sorted[i]!.label = Math.min(sorted[i]!.label, sorted[i + 1]!.label - gap)
  }
  return sorted
}

/** Round values between two ends, about as many as asked for. */
export function ticks(low: number, high: number, about = 7): number[] {
  const raw = (high - low) / about
  const power = 10 ** Math.floor(Math.log10(raw))
  const step = [1, 2, 5, 10].map((m) => m * power).find((s) => s >= raw) ?? raw
  const found = []
  for (let t = Math.ceil(low / step) * step; t <= high + 1e-9; t += step) found.push(Math.round(t * 1e6) / 1e6)
  return found
}
