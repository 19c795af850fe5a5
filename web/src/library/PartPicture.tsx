import type { Schemas } from '../api/client'

interface Props {
  kind: Schemas['KindView']
  title: string
  numbers: Record<string, string>
  onNumber: (terminal: string, number: string) => void
}

/** The part as a block with its terminals; the number printed at each is typed where it stands. */
export function PartPicture({ kind, title, numbers, onNumber }: Props) {
  const side = (which: string) => kind.terminals.filter((t) => t.side === which)
  return (
    <div className="part-picture" role="group" aria-label={`Terminals of the ${kind.title}`}>
      <Pins terminals={side('left')} numbers={numbers} onNumber={onNumber} />
      <div className="body">
        <b>{title || 'Your part'}</b>
        <span>{kind.title}</span>
      </div>
      <Pins terminals={side('right')} numbers={numbers} onNumber={onNumber} right />
    </div>
  )
}

function Pins({
  terminals,
  numbers,
  onNumber,
  right,
}: {
  terminals: Schemas['Terminal'][]
  numbers: Record<string, string>
  onNumber: Props['onNumber']
  right?: boolean
}) {
  return (
    <ul className={right ? 'right' : ''}>
      {terminals.map((t) => (
        <li key={t.name}>
          <input
            aria-label={`Number at ${t.name}`}
            maxLength={8}
            value={numbers[t.name] ?? ''}
            onChange={(e) => onNumber(t.name, e.target.value)}
          />
          <i aria-hidden />
          <span>{t.name}</span>
        </li>
      ))}
    </ul>
  )
}
