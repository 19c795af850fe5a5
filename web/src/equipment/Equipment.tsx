import { useInAddress } from '../api/address'
import { Fetched } from '../shared/Fetched'
import { ReasonOfPlace, ReasonPanel, Reasons } from '../shell/reason'
import { type Row, useEquipment } from './data'
import { Lanes } from './Lanes'
import { Opened } from './Opened'
import { PieceForm } from './PieceForm'
import './equipment.css'

const ROLES: Row['role'][] = ['sensor', 'limiter', 'controller', 'switch', 'reference']
const order = (a: Row, b: Row) => ROLES.indexOf(a.role) - ROLES.indexOf(b.role) || a.name.localeCompare(b.name)

/** Everything the workshop owns by the piece. */
export default function Equipment() {
  const [piece, setPiece] = useInAddress<string>('piece', '')
  const opened = piece === 'new' ? null : Number(piece) || null
  return (
    <Reasons>
      <div className="rig new">
        <main id="work" tabIndex={-1}>
          <h1>Where is what, and what has it been through?</h1>
          <Fetched query={useEquipment()}>
            {(rows) => {
              const used = rows.filter((r) => !r.scrapped).sort(order)
              const scrapped = rows.filter((r) => r.scrapped).sort(order)
              const detail = opened !== null && <Opened id={opened} />
              const press = (id: number) => setPiece(opened === id ? '' : String(id))
              return (
                <>
                  {rows.length === 0 && (
                    <p className="lead">
                      Nothing yet. Enter the probes, limiters, controllers, switches and reference thermometers that have a label: what is
                      found of one then stays with it when it moves.
                    </p>
                  )}
                  {piece === 'new' ? (
                    <PieceForm piece={null} onDone={(id) => setPiece(id === null ? '' : String(id))} />
                  ) : (
                    <div className="row">
                      <button className="button main" onClick={() => setPiece('new')}>
                        Enter a piece
                      </button>
                    </div>
                  )}
                  {used.length > 0 && (
                    <Lanes rows={used} pressed={opened} onPress={press}>
                      {detail}
                    </Lanes>
                  )}
                  {scrapped.length > 0 && (
                    <details className="archived">
                      <summary>{scrapped.length} scrapped</summary>
                      <Lanes rows={scrapped} pressed={opened} onPress={press}>
                        {detail}
                      </Lanes>
                    </details>
                  )}
                </>
              )
            }}
          </Fetched>
        </main>
        <aside aria-label="Reasons">
          <ReasonPanel />
        </aside>
      </div>
      <ReasonOfPlace>
        <h2>Why by the piece</h2>
        <p>An offset belongs to the sensor it was found with, and a proof to the limiter that acted. Exchanged, neither holds any more.</p>
        <p>
          One piece is in one place at a time; a place holds one. Its record is put together from the runs, comparisons and proofs of the
          rigs it was in, while it was there.
        </p>
        <div className="caution">
          <strong>Exchange only what is dead and cold.</strong> Disconnect, lock off and prove dead; mains wiring is for a licensed person.
        </div>
      </ReasonOfPlace>
    </Reasons>
  )
}
