export interface At {
  x: number
  y: number
}
export interface Rect extends At {
  width: number
  height: number
}

const HEIGHT = 16
const GAP = 2
/** Where along a stretch a tag is tried, the middle first. */
const SHARES = [0.5, 0.4, 0.6, 0.3, 0.7, 0.2, 0.8, 0.1, 0.9, 0.05, 0.95]

interface Line {
  number: number
  points: At[]
  /** How wide its tag is. */
  width: number
}

/** A place for the tag of every line: on one of its stretches, over no part and no other tag where that can be. */
export function placeTags(lines: Line[], parts: Rect[]): Map<number, At> {
  const placed = new Map<number, At>()
  const taken = [...parts]
  const longest = (line: Line) => Math.max(0, ...stretches(line.points).map((s) => s.length))
  for (const line of [...lines].sort((a, b) => longest(a) - longest(b))) {
    const tried = stretches(line.points)
      .sort((a, b) => worth(b, line.width) - worth(a, line.width))
      .flatMap(({ from, to }) => SHARES.map((share) => ({ x: from.x + share * (to.x - from.x), y: from.y + share * (to.y - from.y) })))
    const free = (t: At, of: Rect[]) => !of.some((r) => overlap(around(t, line.width), r))
    const at = tried.find((t) => free(t, taken)) ?? tried.find((t) => free(t, parts)) ?? tried[0]
    if (!at) continue
    placed.set(line.number, at)
    taken.push(around(at, line.width))
  }
  return placed
}

function stretches(points: At[]) {
  return points.slice(1).map((to, i) => ({ from: points[i]!, to, length: Math.abs(to.x - points[i]!.x) + Math.abs(to.y - points[i]!.y) }))
}

/** A level stretch longer than its tag before all others, then by length. */
const worth = ({ from, to, length }: { from: At; to: At; length: number }, width: number) =>
  length + (from.y === to.y && length > width ? 1e4 : 0)

const around = (at: At, width: number): Rect => ({ x: at.x - width / 2, y: at.y - HEIGHT / 2, width, height: HEIGHT })

const overlap = (a: Rect, b: Rect) =>
  a.x < b.x + b.width + GAP && b.x < a.x + a.width + GAP && a.y < b.y + b.height + GAP && b.y < a.y + a.height + GAP
