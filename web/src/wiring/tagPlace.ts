/** A place on the longest piece where a tag fits: horizontal pieces first, then vertical ones. */
export function tagPlace(points: { x: number; y: number }[], share: number): { x: number; y: number } {
  let best = { x: 0, y: 0, worth: -1 }
  points.slice(1).forEach((p, i) => {
    const q = points[i]!
    const [flat, steep] = [Math.abs(p.x - q.x), Math.abs(p.y - q.y)]
    const worth = flat > 64 ? 2000 + flat : steep > 24 ? 1000 + steep : Math.max(flat, steep)
    const at = flat > 64 ? share : 0.5
    if (worth > best.worth) best = { x: q.x + (p.x - q.x) * at, y: q.y + (p.y - q.y) * at, worth }
  })
  return best
}
