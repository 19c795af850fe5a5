import { useQuery } from '@tanstack/react-query'
import { useEffect, useMemo, useState } from 'react'
import { Link, useOutletContext } from 'react-router'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useAccept, useChange, useRefresh } from '../api/hooks'
import { Findings } from '../shared/Findings'
import { Segments } from '../shared/Segments'
import { Loading, Refused } from '../shared/states'
import { Undo } from '../shared/Undo'
import { ReasonOfPlace } from '../shell/reason'
import { CutList } from './CutList'
import { Diagram } from './Diagram'
import { FaultList } from './FaultList'
import { layout, type Placed } from './layout'
import { MeterPlan } from './MeterPlan'
import { PartList } from './PartList'
import { PasteWires } from './PasteWires'
import { saveDrawing } from './saveDrawing'
import { StateLoads } from './StateLoads'
import { WireEditor } from './WireEditor'
import { WireList } from './WireList'
import './wiring.css'

const NOTHING: string[] = []
type View = 'diagram' | 'faults' | 'meter' | 'cut'
const VIEWS = [['diagram', 'Diagram'], ['faults', 'If something fails'], ['meter', 'What a meter shows'], ['cut', 'Wires to cut']] as const

/** Which terminal goes to which, and is it right. */
export default function Wiring() {
  const rig = useOutletContext<Rig>()
  const { data } = useQuery({
    queryKey: ['of', rig.slug, 'wiring', rig.revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/wiring', { params: { path: { slug: rig.slug } } })),
    placeholderData: (before) => before,
  })
  const layOut = useChange(rig.slug, () => need(api.POST('/api/v1/rigs/{slug}/wiring', { params: { path: { slug: rig.slug } }, body: { revision: rig.revision } })))
  if (!data) return <Loading />
  return (
    <>
      <h1>Which terminal goes to which, and is it right?</h1>
      {data.parts.length ? (
        <Sheet rig={rig} wiring={data} />
      ) : (
        <div className="empty" style={{ marginTop: 14 }}>
          <p>{rig.choice ? 'The usual circuit for your parts can be laid out now; every wire can be changed afterwards.' : 'The wiring follows from the parts.'}</p>
          {rig.choice ? (
            <button className="button main" disabled={layOut.isPending} onClick={() => layOut.mutate(undefined)}>
              Lay out the wiring
            </button>
          ) : (
            <Link className="button main" to={`/rigs/${rig.slug}/parts`}>
              Choose the parts
            </Link>
          )}
          <Refused error={layOut.error} />
        </div>
      )}
      <ReasonOfPlace>
        <h2>What is checked</h2>
        <p>Earth, overcurrent protection, what drives the SSR, the controller's own relay, the limiter and its place, thermocouple polarity, sensor against input, wire against breaker, load voltage, NO and NC.</p>
        <p>The list is the truth; the diagram is drawn from it. Press two terminals to join them.</p>
        <div className="caution">
          <strong>Dead before touching.</strong> Disconnect, lock off, prove dead on all poles with a tester proved on a live source. Fixed mains wiring belongs to a licensed person in most places; this tool does not certify.
        </div>
      </ReasonOfPlace>
    </>
  )
}

function Sheet({ rig, wiring }: { rig: Rig; wiring: Schemas['WiringView'] }) {
  const refresh = useRefresh(rig.slug)
  const accept = useAccept(rig)
  const [view, setView] = useState<View>('diagram')
  const [placed, setPlaced] = useState<Placed | null>(null)
  const [failed, setFailed] = useState(false)
  const [state, setState] = useState('output on')
  const [chosen, setChosen] = useState<number | null>(null)
  const [picked, setPicked] = useState<string[]>(NOTHING)
  const [pressed, setPressed] = useState<string[]>(NOTHING)
  const [removed, setRemoved] = useState<Schemas['WireView'] | null>(null)
  const shape = JSON.stringify([wiring.parts.map((p) => p.name), wiring.wires.map((w) => [w.number, w.a, w.b])])
  useEffect(() => {
    let current = true
    layout(wiring).then(
      (done) => current && setPlaced(done),
      () => current && setFailed(true),
    )
    return () => {
      current = false
    }
    // the layout depends on what is joined, not on sizes and colours
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [shape])
  const bad = useMemo(() => new Set(pressed.length ? pressed : wiring.findings.filter((f) => f.severity === 'danger').flatMap((f) => f.subjects)), [pressed, wiring.findings])
  const wire = wiring.wires.find((w) => w.number === chosen) ?? null
  const pickTerminal = (terminal: string) => {
    setChosen(null)
    setPicked((before) => (before.length === 1 && before[0] !== terminal ? [before[0]!, terminal] : [terminal]))
  }
  const restore = async () => {
    const now = await need(api.GET('/api/v1/rigs/{slug}', { params: { path: { slug: rig.slug } } }))
    const { a, b, number, area_mm2, colour } = removed!
    await need(api.POST('/api/v1/rigs/{slug}/wiring/wires', { params: { path: { slug: rig.slug } }, body: { revision: now.revision, a, b, number, area_mm2, colour } }))
    await refresh()
  }
  const shown = wiring.states.find((s) => s.name === state)
  const mark = (subject: string) => {
    setPressed([subject])
    setView('diagram')
  }
  return (
    <>
      <div style={{ margin: '10px 0 4px' }}>
        <Segments label="View" value={view} options={VIEWS} onChange={setView} />
      </div>
      {view === 'faults' && <FaultList rig={rig} onSubject={mark} />}
      {view === 'meter' && <MeterPlan rig={rig} />}
      {view === 'cut' && <CutList rig={rig} />}
      {view === 'diagram' && (
        <>
      <div style={{ margin: '8px 0' }}>
        <Findings rig={rig} findings={wiring.findings} fine="Nothing found by the rules of this version." onPick={(f) => setPressed(f.subjects)} />
      </div>
      <div className="stateline">
        <span className="dim">Lit:</span>
        <Segments label="State" value={state} options={wiring.states.map((s) => [s.name, s.name] as const)} onChange={setState} />
        <span>{shown && (shown.energised.some((n) => n.startsWith('E')) ? <b>heater on</b> : 'heater off')}</span>
        {shown && !shown.settled && <span className="badge fault">a relay chatters</span>}
      </div>
      {placed ? (
        <Diagram wiring={wiring} placed={placed} state={shown} bad={bad} chosen={chosen} first={picked.length === 1 ? picked[0]! : null} onWire={(n) => (setChosen(n), setPicked(NOTHING))} onTerminal={pickTerminal} />
      ) : (
        <p className="dim">{failed ? 'The diagram could not be drawn; the list below is complete.' : 'Drawing…'}</p>
      )}
      <StateLoads rig={rig} state={state} />
      <div className="grid2" style={{ gridTemplateColumns: '3fr 2fr', gap: 24, alignItems: 'start' }}>
        <WireList wiring={wiring} chosen={chosen} onPick={(n) => (setChosen(n === chosen ? null : n), setPicked(NOTHING))} />
        <WireEditor key={wire ? `${wire.number}${wire.a}${wire.b}` : picked.join()} rig={rig} wiring={wiring} wire={wire} picked={picked} onRemoved={(w) => (setRemoved(w), setChosen(null))} onAdded={() => setPicked(NOTHING)} />
      </div>
      <div className="row" style={{ marginTop: 12 }}>
        <button className="button" disabled={accept.isPending} onClick={() => accept.mutate({ target: 'wiring.generate', value: true, label: '' })}>
          Lay it out again
        </button>
        <button className="button" disabled={!placed} onClick={() => saveDrawing(document.querySelector<SVGSVGElement>('.diagram svg')!, `${rig.slug}-wiring`)}>
          Diagram as SVG
        </button>
        <button className="button" onClick={() => window.print()}>
          Print
        </button>
        {wiring.can_put_back && (
          <button className="button" disabled={accept.isPending} onClick={() => accept.mutate({ target: 'wiring.put_back', value: true, label: '' })}>
            Put the earlier wiring back
          </button>
        )}
      </div>
      <Refused error={accept.error} />
      <div className="grid2" style={{ marginTop: 18, alignItems: 'start' }}>
        <PasteWires rig={rig} />
      </div>
      <PartList rig={rig} wiring={wiring} />
        </>
      )}
      <Undo text={removed ? `Wire ${removed.number} removed` : null} onUndo={restore} onClose={() => setRemoved(null)} />
    </>
  )
}
