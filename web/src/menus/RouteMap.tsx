import type { Description } from './data'

const LINE = 46
const STOP = 42
const NAME = 132

interface Props {
  description: Description
  /** What each page shows now, and is to show. */
  found: string[]
  wanted: string[]
  /** Where the walk stands now: a page's key. */
  here: string
  picked: string
  onPick: (page: string) => void
  width: number
}

/** The menus as lines and stops: filled where something changes, ringed where the walk stands. Long lines are folded. */
export function RouteMap({ description, found, wanted, here, picked, onPick, width }: Props) {
  const fit = Math.max(Math.floor((width - NAME - 16) / STOP), 3)
  const lines: { title: string; stops: boolean; first: boolean; from: number; pages: { at: number; key: string; code: string }[] }[] = []
  const starts = description.groups.map((_, i) => description.groups.slice(0, i).reduce((n, g) => n + g.pages.length, 0))
  description.groups.forEach((group, g) => {
    const stops = group.pages.map((p, i) => ({ at: starts[g]! + i, key: p.key, code: p.code || 'home' }))
    for (let i = 0; i < stops.length; i += fit)
      lines.push({ title: group.title, stops: group.outputs_stop, first: i === 0, from: i, pages: stops.slice(i, i + fit) })
  })
  return (
    <svg className="routes" width={width} height={lines.length * LINE + 8} role="group" aria-label="Map of the menus">
      {lines.map((line, n) => {
        const y = n * LINE + 20
        const changes = line.pages.some((p) => found[p.at] !== wanted[p.at])
        return (
          <g key={n} className={changes ? 'line used' : 'line'}>
            {line.first && (
              <text x={0} y={y + 5} className="name">
                {line.title.length > 16 ? `${line.title.slice(0, 15)}…` : line.title}
                {line.stops ? ', stops' : ''}
              </text>
            )}
            <line x1={NAME - 14} x2={NAME + (line.pages.length - 1) * STOP} y1={y} y2={y} />
            {line.pages.map((p, i) => {
              const moved = found[p.at] !== wanted[p.at]
              const words = moved ? `${p.code}: ${found[p.at]} to ${wanted[p.at]}` : `${p.code}: stays`
              return (
                <g
                  key={p.key}
                  className={`stop ${moved ? 'moved' : ''} ${p.key === here ? 'here' : ''} ${p.key === picked ? 'picked' : ''}`}
                  role="button"
                  tabIndex={0}
                  aria-label={words}
                  onClick={() => onPick(p.key)}
                  onKeyDown={(e) => e.key === 'Enter' && onPick(p.key)}
                >
                  <rect x={NAME + i * STOP - 20} y={y - 18} width={40} height={40} className="touch" />
                  <circle cx={NAME + i * STOP} cy={y} r={moved ? 8 : 5} />
                  <text x={NAME + i * STOP} y={y + 21} textAnchor="middle">
                    {p.code.length > 6 ? `${p.code.slice(0, 5)}…` : p.code}
                  </text>
                </g>
              )
            })}
          </g>
        )
      })}
    </svg>
  )
}
