import { useShow } from '../shell/reason'
import { significant } from '../units/quantity'
import type { Answer } from './data'

const LEFT = 120
const ROW = 104
const TOP = 26
const WIDTH = 940

/** Supply conductors and inner nodes as rails, elements as boxes between them, filled by the share of their nameplate. */
export function BankPicture({ bank: { solved, lost: missing } }: { bank: NonNullable<Answer['bank']> }) {
  const show = useShow()
  const supply = [...solved.lines.map((l) => l.name), ...missing].sort(bySupply)
  const inner = [...new Set(solved.elements.flatMap((e) => [e.a, e.b]))].filter((n) => !supply.includes(n))
  const rails = order(supply, inner)
  const row = rails.length > 5 ? Math.max(58, 420 / rails.length) : ROW
  const y = (node: string) => TOP + rails.indexOf(node) * row
  const height = TOP * 2 + (rails.length - 1) * row
  const step = Math.min(150, (WIDTH - LEFT - 60) / solved.elements.length)
  return (
    <svg
      className="bank"
      viewBox={`0 0 ${WIDTH} ${height}`}
      role="group"
      aria-label="The bank: rails are supply conductors and nodes, boxes are elements"
    >
      {rails.map((n) => {
        const line = solved.lines.find((l) => l.name === n)
        const lost = missing.includes(n)
        return (
          <g key={n}>
            <line className={`rail ${lost ? 'lost' : line ? '' : 'floating'}`} x1={LEFT - 26} x2={WIDTH - 10} y1={y(n)} y2={y(n)} />
            <text x={8} y={y(n) + 5}>
              {n}
            </text>
            <text className="amps" x={LEFT - 32} y={y(n) + 5} textAnchor="end">
              {lost ? 'lost' : line ? `${significant(line.current_a)} A` : ''}
            </text>
          </g>
        )
      })}
      {solved.elements.map((e, i) => {
        const x = LEFT + 30 + i * step
        const [top, bottom] = [Math.min(y(e.a), y(e.b)), Math.max(y(e.a), y(e.b))]
        const middle = (top + bottom) / 2
        const box = { y: middle - 24, height: 48, width: Math.min(step - 16, 118) }
        const tone = e.open ? 'open' : e.over ? 'over' : ''
        return (
          <g
            key={e.number}
            className={tone}
            role="button"
            tabIndex={0}
            aria-label={`element ${e.number}: ${significant(e.voltage.value)} V, ${significant(e.power.value)} W; why`}
            style={{ cursor: 'pointer' }}
            onClick={() => show({ figure: e.power })}
            onKeyDown={(event) => (event.key === 'Enter' || event.key === ' ') && show({ figure: e.power })}
          >
            <line className="lead" x1={x + 14} x2={x + 14} y1={top} y2={box.y} />
            <line className="lead" x1={x + 14} x2={x + 14} y1={box.y + box.height} y2={bottom} />
            <circle className="node" cx={x + 14} cy={top} r={5} />
            <circle className="node" cx={x + 14} cy={bottom} r={5} />
            <rect className="box" x={x} y={box.y} width={box.width} height={box.height} rx={3} />
            <rect className="fill" x={x + 1} y={box.y + 1} width={(box.width - 2) * Math.min(e.share, 1)} height={box.height - 2} />
            <text x={x + 8} y={middle - 4}>
              {e.undefined ? 'undefined' : `${Math.round(e.voltage.value)} V`}
            </text>
            <text className="amps" x={x + 8} y={middle + 16}>
              {e.open ? 'open' : `${Math.round(e.power.value)} W`}
            </text>
          </g>
        )
      })}
    </svg>
  )
}

const RANK = ['L', '+', 'L1', 'L2', 'L3', 'N', '−']
const bySupply = (a: string, b: string) => RANK.indexOf(a) - RANK.indexOf(b)

/** Inner nodes of a series string lie between its ends; a star point lies below its phases. */
function order(supply: string[], inner: string[]): string[] {
  if (inner.some((n) => n.startsWith('m'))) {
    const [first, ...rest] = supply
    return [first!, ...inner, ...rest]
  }
  return [...supply, ...inner]
}
