import type { Schemas } from '../api/client'
import { Fig } from '../shared/Fig'
import { Said } from '../shared/Said'
import { usePreferences } from '../shell/preferences'
import { useShow } from '../shell/reason'
import { said } from '../units/message'
import type { Answer } from './data'

const WORD = { danger: 'no', fault: 'no', advice: 'hardly' }

/** Quantities as filled bars; the stroke is the highest that is allowed. */
export function Bars({ bars }: { bars: Answer['bars'] }) {
  const { unit } = usePreferences()
  return (
    <ul className="ask-bars">
      {bars.map((b) => (
        <li key={b.label} className={b.verdict ?? ''}>
          <span>{said(b.label, unit)}</span>
          <span className="bar">
            <i style={{ width: `${Math.min(100, (100 * b.figure.value) / b.full)}%` }} />
            {b.limit != null && <em style={{ left: `${Math.min(100, (100 * b.limit) / b.full)}%` }} />}
          </span>
          <Fig figure={b.figure} />
          <span className="note">{said(b.note, unit)}</span>
        </li>
      ))}
    </ul>
  )
}

/** Choices compared in place: what fits is solid, what does not says why. Pressed, one tells its reasons. */
export function Alternatives({
  alternatives,
  pressed,
  onPress,
}: {
  alternatives: Answer['alternatives']
  pressed: string
  onPress: (key: string) => void
}) {
  const { unit } = usePreferences()
  return (
    <ul className="ask-alternatives">
      {alternatives.map((a) => {
        const open = a.key === pressed
        return (
          <li key={a.key} className={`${a.verdict ?? 'fits'} ${open || (!pressed && a.chosen) ? 'chosen' : ''}`}>
            <button aria-expanded={open} onClick={() => onPress(open ? '' : a.key)}>
              <b>{said(a.title, unit)}</b>
              <span>{said(a.says, unit)}</span>
              <small>{a.chosen ? 'this one' : a.verdict ? WORD[a.verdict] : ''}</small>
            </button>
            {open && (
              <div className="why">
                {a.reasons.map((r) => (
                  <p key={r}>{said(r, unit)}</p>
                ))}
                {a.figures.map((f) => (
                  <p key={f.name}>
                    <Said>{f.name}</Said>: <Fig figure={f} />
                  </p>
                ))}
              </div>
            )}
          </li>
        )
      })}
    </ul>
  )
}

/** A drawing in millimetres; printed, it comes out at 1:1. */
export function DrawingSheet({ drawing }: { drawing: NonNullable<Answer['drawing']> }) {
  const show = useShow()
  const pad = 12
  const [w, h] = [drawing.width + 2 * pad, drawing.height + 2 * pad + 14]
  return (
    <svg
      className="drawing"
      style={{ '--mm-width': `${w}mm`, '--mm-height': `${h}mm` } as React.CSSProperties}
      viewBox={`${-pad} ${-pad} ${w} ${h}`}
      role="group"
      aria-label={`Panel of ${drawing.width} by ${drawing.height} mm with its cut-outs`}
    >
      {drawing.shapes.map((s, i) => (
        <Shape
          key={i}
          shape={s}
          height={drawing.height}
          show={() =>
            show({
              note: {
                title: s.label,
                value: `${round(s.width)} × ${round(s.height)} mm`,
                text: `Centre ${round(s.x + s.width / 2)} mm from the left, ${round(s.y + s.height / 2)} mm from below.`,
              },
            })
          }
        />
      ))}
      <g className="scale">
        <line x1={0} x2={100} y1={drawing.height + 14} y2={drawing.height + 14} />
        {Array.from({ length: 11 }, (_, i) => (
          <line key={i} x1={i * 10} x2={i * 10} y1={drawing.height + (i % 5 ? 12 : 10)} y2={drawing.height + 14} />
        ))}
        <text x={104} y={drawing.height + 15}>
          100 mm: check with a rule
        </text>
      </g>
    </svg>
  )
}

const round = (mm: number) => String(Math.round(mm * 10) / 10)

function Shape({ shape: s, height, show }: { shape: Schemas['Mm']; height: number; show: () => void }) {
  const y = height - s.y - s.height
  const [cx, cy] = [s.x + s.width / 2, y + s.height / 2]
  if (s.sort === 'edge') return <rect className="edge" x={s.x} y={y} width={s.width} height={s.height} />
  if (s.sort === 'keep' || s.sort === 'outside')
    return (
      <g className={s.sort} role="button" tabIndex={0} aria-label={s.label} onClick={show} onKeyDown={(e) => e.key === 'Enter' && show()}>
        <rect x={s.x} y={y} width={s.width} height={s.height} />
        <text x={s.x} y={y - 1.2}>
          {short(s.label, s.width)}
        </text>
      </g>
    )
  const round = s.radius >= s.width / 2 - 1e-6
  return (
    <g className="cut">
      {round ? <circle cx={cx} cy={cy} r={s.width / 2} /> : <rect x={s.x} y={y} width={s.width} height={s.height} rx={s.radius} />}
      <path d={`M${cx - 3} ${cy}h6M${cx} ${cy - 3}v6`} />
      {s.sort === 'cut' && (
        <text x={cx} y={cy + Math.min(8, s.height / 2 - 1)} textAnchor="middle">
          {s.label}
        </text>
      )}
    </g>
  )
}

const LETTER_MM = 2.3

/** What fits above a bezel. */
const short = (text: string, width: number) =>
  text.length * LETTER_MM > width + 10 ? `${text.slice(0, Math.max(4, Math.floor((width + 6) / LETTER_MM)))}…` : text
