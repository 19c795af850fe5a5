import { useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { Link, useOutletContext } from 'react-router'
import { api, need, type Finding, type Rig } from '../api/client'
import { useInAddress } from '../api/address'
import { useChange } from '../api/hooks'
import { Fetched } from '../shared/Fetched'
import { Findings } from '../shared/Findings'
import { SelectField } from '../shared/fields'
import { Segments } from '../shared/Segments'
import { Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { ReasonOfPlace, useShow } from '../shell/reason'
import { wordsOf } from '../shared/effect'
import { said } from '../units/message'
import { AtTheRig } from './rig/AtTheRig'
import { CutList } from './list/CutList'
import { Drawings, useDrawings, type View as Circuit } from './diagram/Drawings'
import type { List } from './edits'
import { FaultList } from './faults/FaultList'
import { LivedWith } from './faults/LivedWith'
import { MeterPlan } from './meter/MeterPlan'
import { AT_REST, OWN, OwnPosition, usePosition } from './states/OwnPosition'
import { PartList } from './list/PartList'
import { PasteWires } from './list/PasteWires'
import { Photos } from './rig/Photos'
import { Starting } from './list/Starting'
import { StateLoads } from './states/StateLoads'
import { StateTable } from './states/StateTable'
import { Toolbar } from './list/Toolbar'
import { WireEditor } from './list/WireEditor'
import { WireList } from './list/WireList'
import './wiring.css'

const NOTHING: string[] = []
type View = 'diagram' | 'states' | 'faults' | 'meter' | 'cut' | 'rig'
const VIEWS = [
  ['diagram', 'Diagram'],
  ['states', 'What is on when'],
  ['faults', 'If something fails'],
  ['meter', 'What a meter shows'],
  ['cut', 'Wires to cut'],
  ['rig', 'At the rig'],
] as const

/** Which terminal goes to which, and is it right. */
export default function Wiring() {
  const rig = useOutletContext<Rig>()
  const query = useQuery({
    queryKey: ['of', rig.slug, 'wiring', rig.revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/wiring', { params: { path: { slug: rig.slug } } })),
    placeholderData: (before) => before,
  })
  return (
    <>
      <h1>Which terminal goes to which, and is it right?</h1>
      <Fetched query={query}>
        {(data) =>
          data.parts.length ? (
            <Sheet rig={rig} wiring={data} />
          ) : (
            <div className="empty" style={{ marginTop: 14 }}>
              {rig.choice ? (
                <Starting rig={rig} now="" />
              ) : (
                <>
                  <p>The wiring follows from the parts.</p>
                  <Link className="button main" to={`/rigs/${rig.slug}/parts`}>
                    Choose the parts
                  </Link>
                </>
              )}
            </div>
          )
        }
      </Fetched>
      <ReasonOfPlace>
        <h2>What is checked</h2>
        <p>
          Protection, currents and voltages as solved, sensors, commands, logic level, and every single failure. A finding can be lived
          with, for a reason that stands on the sheet.
        </p>
        <p>The list is the truth; the diagram is drawn from it. Press two terminals to join them.</p>
        <div className="caution">
          <strong>Dead before touching.</strong> Disconnect, lock off, prove dead on all poles with a tester proved on a live source. Fixed
          mains wiring belongs to a licensed person in most places; this tool does not certify.
        </div>
      </ReasonOfPlace>
    </>
  )
}

function Sheet({ rig, wiring }: { rig: Rig; wiring: List }) {
  const [view, setView] = useInAddress<View>(
    'view',
    'diagram',
    VIEWS.map(([key]) => key),
  )
  const [circuit, setCircuit] = useInAddress<Circuit>('circuit', 'all')
  const { placed, drawn, failed } = useDrawings(wiring, circuit)
  const [state, setState] = useInAddress<string>('lit', 'output on')
  const [position, setPosition] = useState(AT_REST)
  const own = usePosition(rig, position, state === OWN)
  const [chosen, setChosen] = useState<number | null>(null)
  const [picked, setPicked] = useState<string[]>(NOTHING)
  const [pressed, setPressed] = useState<Finding | null>(null)
  const [subject, setSubject] = useState('')
  const [part, setPart] = useState('')
  const join = useChange(rig.slug, async ([a, b]: [string, string]) => {
    const after = await need(
      api.POST('/api/v1/rigs/{slug}/wiring/wires', { params: { path: { slug: rig.slug } }, body: { revision: rig.revision, a, b } }),
    )
    setPicked(NOTHING)
    setChosen(Math.max(...after.wires.map((w) => w.number))) // there to be sized, or removed again
  })
  const bad = useMemo(() => {
    if (pressed) return new Set(pressed.subjects)
    if (subject) return new Set([subject])
    return new Set(wiring.findings.find((f) => f.severity === 'danger')?.subjects) // the worst; the others when they are pressed
  }, [pressed, subject, wiring.findings])
  const show = useShow()
  const { unit } = usePreferences()
  const wire = wiring.wires.find((w) => w.number === chosen) ?? null
  const pickTerminal = (terminal: string) => {
    setChosen(null)
    const first = picked.length === 1 && picked[0] !== terminal ? picked[0]! : null
    setPicked(first ? [first, terminal] : [terminal])
    if (first) join.mutate([first, terminal])
  }
  const pickPart = (name: string) => {
    const finding = wiring.findings.find((f) => f.subjects.includes(name))
    if (!finding || finding === pressed) return setPart(name) // pressed again, or nothing found: what it is rated for
    show({ finding })
    setPressed(finding)
  }
  const pickWire = (number: number) => {
    setChosen(number === chosen ? null : number)
    setPicked(NOTHING)
  }
  const shown = state === OWN ? own.data?.state : (wiring.states.find((s) => s.name === state) ?? wiring.states[0])
  const mark = (name: string) => {
    setPressed(null)
    setSubject(name)
    setView('diagram')
  }
  return (
    <>
      <div style={{ margin: '10px 0 4px' }}>
        <Segments label="View" value={view} options={VIEWS} onChange={setView} />
      </div>
      {view === 'states' && <StateTable rig={rig} wiring={wiring} onState={(name) => (setState(name), setView('diagram'))} />}
      {view === 'faults' && <FaultList rig={rig} wiring={wiring} onSubject={mark} />}
      {view === 'meter' && <MeterPlan rig={rig} wiring={wiring} />}
      {view === 'cut' && <CutList rig={rig} />}
      {view === 'rig' && <AtTheRig rig={rig} wiring={wiring} />}
      {view === 'diagram' && (
        <>
          <div style={{ margin: '8px 0' }}>
            <Findings rig={rig} findings={wiring.findings} fine="Nothing found by any rule, in any position." onPick={setPressed} />
            <LivedWith rig={rig} wiring={wiring} pressed={pressed} />
          </div>
          {placed ? (
            <Drawings
              wiring={drawn}
              placed={placed}
              view={circuit}
              onView={setCircuit}
              state={shown}
              bad={bad}
              sought={pressed?.subjects.join() ?? subject}
              chosen={chosen}
              first={picked.length === 1 ? picked[0]! : null}
              onWire={pickWire}
              onTerminal={pickTerminal}
              onPart={pickPart}
            >
              <span className="lit">
                <SelectField
                  bare
                  label="Lit"
                  value={state === OWN ? OWN : (shown?.name ?? '')}
                  options={[...wiring.states.map((s) => s.name), OWN].map((s) => [s, s] as const)}
                  onChange={setState}
                />
              </span>
              <span>
                {shown &&
                  wiring.parts.some((p) => p.heats) &&
                  (wiring.parts.some((p) => p.heats && shown.energised.includes(p.name)) ? (
                    <b>{wordsOf(rig.purpose.effect, !!rig.purpose.fire).noun} on</b>
                  ) : (
                    `${wordsOf(rig.purpose.effect, !!rig.purpose.fire).noun} off`
                  ))}
                {shown && shown.turned.length > 0 && <b>, {shown.turned.join(' and ')} cools</b>}
              </span>
              {wiring.findings[0] && (
                <span className="worst">
                  <span className={`badge ${wiring.findings[0].severity}`}>{wiring.findings[0].severity}</span>{' '}
                  {said(wiring.findings[0].title, unit)}
                </span>
              )}
              {shown && !shown.settled && <span className="badge fault">a relay chatters</span>}
              {state === OWN && <OwnPosition wiring={wiring} position={position} onChange={setPosition} />}
            </Drawings>
          ) : (
            <p className="dim">{failed ? 'The diagram could not be drawn; the list below is complete.' : 'Drawing…'}</p>
          )}
          <Refused error={join.error} />
          <StateLoads rig={rig} state={shown?.name ?? ''} own={state === OWN ? own.data?.solved : undefined} />
          <Toolbar rig={rig} wiring={wiring} drawn={drawn} placed={placed} />
          <div className="grid2 list-and-edit">
            <WireList wiring={wiring} chosen={chosen} onPick={pickWire} />
            <div className="stack">
              <WireEditor
                key={wire ? wire.number : picked.join()}
                rig={rig}
                wiring={wiring}
                wire={wire}
                picked={picked}
                onDone={() => (setChosen(null), setPicked(NOTHING))}
              />
              {(wire || picked.length > 0) && <Photos rig={rig} wiring={wiring} terminals={wire ? [wire.a, wire.b] : picked} />}
            </div>
          </div>
          <PartList rig={rig} wiring={wiring} open={part} onOpen={setPart} />
          <div style={{ margin: '18px 0' }}>
            <PasteWires rig={rig} />
          </div>
          <Starting rig={rig} now={wiring.circuit} />
        </>
      )}
    </>
  )
}
