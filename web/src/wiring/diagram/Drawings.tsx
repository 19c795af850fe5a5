import { useEffect, useRef, useState } from 'react'
import type { Schemas } from '../../api/client'
import { Segments } from '../../shared/Segments'
import { useWidth } from '../../shared/useWidth'
import { Diagram, type Picking } from './Diagram'
import type { List } from '../edits'
import type { Placed } from './graph'
import { layout } from './layout'

export type View = Schemas['CircuitDrawing']['view']
const VIEWS: [View, string][] = [
  ['all', 'Whole'],
  ['power', 'Power'],
  ['control', 'Control'],
  ['sensor', 'Sensors'],
]
const TITLES: Record<View, string> = { all: '', power: 'Power', control: 'Control', sensor: 'Sensors' }
/** Narrower than this a drawing is scrolled rather than shrunk. */
const READABLE = 0.5
const BARS = 18
const STEPS = [0.35, 0.5, 0.75, 1, 1.3]

/** The drawings to show: that of one circuit, or everything as one drawing where there is one, else one below the other. */
const shown = (wiring: List, view: View) => {
  const one = wiring.drawings.filter((d) => d.view === view)
  return one.length ? one : wiring.drawings
}

interface Laid {
  shape: string
  wiring: List
  placed: Placed[]
}

/** Drawings of the list, laid out anew whenever what is joined changes; until then the list as it was when it was laid out. */
export function useDrawings(wiring: List, view: View) {
  const [laid, setLaid] = useState<Laid | null>(null)
  const [failed, setFailed] = useState(false)
  const drawings = shown(wiring, view)
  const shape = JSON.stringify([drawings, wiring.parts.map((p) => [p.name, p.kind]), wiring.wires.map((w) => [w.number, w.a, w.b])])
  useEffect(() => {
    let current = true
    layout(wiring, drawings).then(
      (placed) => current && setLaid({ shape, wiring, placed }),
      () => current && setFailed(true),
    )
    return () => {
      current = false
    }
    // the layout depends on what is joined, not on sizes and colours
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [shape])
  return { placed: laid?.placed ?? null, drawn: laid && laid.shape !== shape ? laid.wiring : wiring, failed }
}

interface Props extends Picking {
  wiring: List
  placed: Placed[]
  view: View
  onView: (view: View) => void
  children: React.ReactNode
}

/** The drawings with what chooses the circuit and the size; one key puts them over the whole window. */
export function Drawings({ wiring, placed, view, onView, children, ...picking }: Props) {
  const [size, setSize] = useState<number | 'fit' | 'usual'>('usual')
  const [wide, setWide] = useState(false)
  const frame = useRef<HTMLDivElement>(null)
  const room = useWidth(frame, 744, BARS)
  const widest = Math.max(...placed.map((p) => p.width)) + 16
  const fitting = room / widest
  const scale = size === 'fit' ? fitting : size === 'usual' ? Math.max(Math.min(fitting, 1), READABLE) : size
  const step = (by: 1 | -1) => setSize((by > 0 ? STEPS.find((s) => s > scale + 0.01) : STEPS.findLast((s) => s < scale - 0.01)) ?? scale)
  /** What is pressed is told beside and below the drawing. */
  const leaving =
    <T,>(pick: (what: T) => void) =>
    (what: T) => {
      setWide(false)
      pick(what)
    }
  useEffect(() => {
    if (!wide) return
    const leave = (e: KeyboardEvent) => e.key === 'Escape' && setWide(false)
    window.addEventListener('keydown', leave)
    return () => window.removeEventListener('keydown', leave)
  }, [wide])
  return (
    <div className={wide ? 'drawings wide' : 'drawings'}>
      <div className="stateline">
        {children}
        <Segments
          label="Circuit"
          value={view}
          options={VIEWS.filter(([v]) => v === 'all' || wiring.drawings.some((d) => d.view === v))}
          onChange={onView}
        />
        <span className="sizes">
          {(wide || fitting < READABLE) && (
            <>
              <button className="button" aria-label="Smaller" onClick={() => step(-1)}>
                −
              </button>
              <button className="button" onClick={() => setSize('fit')} aria-pressed={size === 'fit'}>
                Fit
              </button>
              <button className="button" aria-label="Larger" onClick={() => step(1)}>
                +
              </button>
            </>
          )}
          <button className="button" onClick={() => setWide(!wide)} aria-pressed={wide}>
            {wide ? 'Back (Esc)' : 'Full window'}
          </button>
        </span>
      </div>
      <div className="diagram" tabIndex={0} role="region" aria-label="Diagram" ref={frame}>
        {placed.map((p) => (
          <section key={p.view}>
            {placed.length > 1 && <h2>{TITLES[p.view]}</h2>}
            <Diagram
              wiring={wiring}
              placed={p}
              scale={scale}
              {...picking}
              onWire={leaving(picking.onWire)}
              onPart={leaving(picking.onPart)}
            />
          </section>
        ))}
      </div>
    </div>
  )
}
