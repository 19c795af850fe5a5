import { createContext, type ReactNode, use, useEffect, useMemo, useState } from 'react'
import type { Figure, Finding } from '../api/client'
import { said } from '../units/message'
import { capital, say } from '../units/quantity'
import { usePreferences } from './preferences'

interface Note {
  title: string
  value: string
  text: string
}

type Shown = { figure: Figure } | { finding: Finding } | { note: Note }

interface ReasonState {
  shown: Shown | null
  show: (shown: Shown | null) => void
  place: ReactNode
  setPlace: (place: ReactNode) => void
}

const Context = createContext<ReasonState | null>(null)

export function Reasons({ children }: { children: ReactNode }) {
  const [shown, show] = useState<Shown | null>(null)
  const [place, setPlace] = useState<ReactNode>(null)
  const value = useMemo(() => ({ shown, show, place, setPlace }), [shown, place])
  return <Context value={value}>{children}</Context>
}

function useReasons(): ReasonState {
  const value = use(Context)
  if (!value) throw new Error('useReasons outside Reasons')
  return value
}

/** Open a figure's derivation or a finding in the reason panel. */
export function useShow(): (shown: Shown | null) => void {
  return useReasons().show
}

/** What a station says in the panel while nothing is pressed: its advice, and the caution of the place. */
export function ReasonOfPlace({ children }: { children: ReactNode }) {
  const { setPlace, show } = useReasons()
  useEffect(() => {
    setPlace(children)
  })
  useEffect(
    () => () => {
      setPlace(null)
      show(null)
    },
    [setPlace, show],
  )
  return null
}

export function ReasonPanel() {
  const { shown, show, place } = useReasons()
  return (
    <div className="reason" aria-live="polite">
      {shown && (
        <div className="pressed" onKeyDown={(e) => e.key === 'Escape' && show(null)}>
          {'figure' in shown && <Derivation figure={shown.figure} />}
          {'finding' in shown && <FindingReason finding={shown.finding} />}
          {'note' in shown && <NoteReason note={shown.note} />}
          <div>
            <button className="button quiet" onClick={() => show(null)}>
              Close
            </button>
          </div>
        </div>
      )}
      {place}
    </div>
  )
}

/** A page of no rig: its work, with the reason panel beside it and what that says while nothing is pressed. */
export function ReasonedPage({ place, children }: { place: ReactNode; children: ReactNode }) {
  return (
    <Reasons>
      <div className="rig new">
        <main id="work" tabIndex={-1}>
          {children}
        </main>
        <aside aria-label="Reasons">
          <ReasonPanel />
        </aside>
      </div>
      <ReasonOfPlace>{place}</ReasonOfPlace>
    </Reasons>
  )
}

function Derivation({ figure }: { figure: Figure }) {
  const { unit } = usePreferences()
  return (
    <>
      <h2>{said(capital(figure.name), unit)}</h2>
      <p className="num big">{say(figure.value, figure.kind, unit)}</p>
      {figure.low != null && figure.high != null && (
        <p className="num small">
          {say(figure.low, figure.kind, unit)} … {say(figure.high, figure.kind, unit)} (95 %)
        </p>
      )}
      {figure.reason && <p>{said(figure.reason, unit)}</p>}
      {(figure.formula || figure.inputs.length > 0) && (
        <div className="derivation">
          {figure.formula && (
            <div className="formula">
              {figure.symbol && !figure.formula.includes('=') ? `${figure.symbol} = ` : ''}
              {figure.formula}
            </div>
          )}
          <dl>
            {figure.inputs.map((i) => (
              <FigureInput key={i.name + i.symbol} input={i} />
            ))}
          </dl>
        </div>
      )}
      {figure.school && <p className="source">School: {said(figure.school, unit)}</p>}
      {figure.source && <p className="source">{said(figure.source, unit)}</p>}
    </>
  )
}

function FigureInput({ input }: { input: Figure['inputs'][number] }) {
  const { unit } = usePreferences()
  return (
    <>
      <dt>
        {input.symbol && <span className="sym">{input.symbol} </span>}
        {said(input.name, unit)}
        {input.source && <span className="small">, {said(input.source, unit)}</span>}
      </dt>
      <dd>{say(input.value, input.kind, unit)}</dd>
    </>
  )
}

function NoteReason({ note }: { note: Note }) {
  const { unit } = usePreferences()
  return (
    <>
      <h2>{said(note.title, unit)}</h2>
      <p className="num big">{note.value}</p>
      <p>{said(note.text, unit)}</p>
    </>
  )
}

function FindingReason({ finding }: { finding: Finding }) {
  const { unit } = usePreferences()
  return (
    <>
      <div>
        <span className={`badge ${finding.severity}`}>{finding.severity}</span>
      </div>
      <h2>{said(finding.title, unit)}</h2>
      <p>{said(finding.reason, unit)}</p>
      <p>
        <b>Fix:</b> {said(finding.fix, unit)}
      </p>
      {finding.figures.map((f) => (
        <Derivation key={f.name} figure={f} />
      ))}
      {finding.source && <p className="source">{said(finding.source, unit)}</p>}
    </>
  )
}
