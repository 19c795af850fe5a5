import { Said } from '../shared/Said'
import { useConductorColours } from '../shared/conductors'
import type { Answer } from './data'

/** Cable ends that fit what was seen: sheath, two legs with letter codes, plus and minus. */
export function Cables({ cables }: { cables: Answer['cables'] }) {
  return (
    <div className="cables">
      {cables.map((c) => (
        <Cable key={c.title + c.note} cable={c} />
      ))}
    </div>
  )
}

function Cable({ cable }: { cable: Answer['cables'][number] }) {
  const colours = useConductorColours()
  const legs = [
    { y: 26, name: cable.positive, sign: '+' },
    { y: 58, name: cable.negative, sign: '−' },
  ]
  return (
    <figure className={cable.unlikely ? 'unlikely' : ''}>
      <figcaption>
        <b>
          <Said>{cable.title}</Said>
        </b>{' '}
        <span className="dim">
          <Said>{cable.note}</Said>
        </span>
      </figcaption>
      <svg viewBox="0 0 300 84" role="img" aria-label={`${cable.positive} plus, ${cable.negative} minus`}>
        <rect x={0} y={12} width={80} height={60} rx={6} fill={colours.of(cable.sheath).shown} stroke="var(--ink)" strokeWidth={1.5} />
        {legs.map((l) => (
          <g key={l.sign}>
            <path d={`M80 ${l.y} H210`} stroke="var(--ink)" strokeWidth={15} />
            <path d={`M80 ${l.y} H210`} stroke={colours.of(l.name).shown} strokeWidth={12} />
            <path d={`M210 ${l.y} H226`} stroke="var(--dim)" strokeWidth={4} />
            <text className="code" x={236} y={l.y + 5}>
              {colours.of(l.name).code}
            </text>
            <text className="sign" x={272} y={l.y + 8}>
              {l.sign}
            </text>
          </g>
        ))}
      </svg>
    </figure>
  )
}
