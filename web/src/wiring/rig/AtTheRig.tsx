import type { Rig } from '../../api/client'
import { Said } from '../../shared/Said'
import { Refused } from '../../shared/states'
import { type List, useEdits } from '../edits'

const DONE = { open: 'not yet', fitted: 'fitted', differs: 'changed since' }

/** Ticking wires off while wiring, and what still sets the rig apart from its plan. */
export function AtTheRig({ rig, wiring }: { rig: Rig; wiring: List }) {
  const { tick } = useEdits(rig)
  const fitted = wiring.wires.filter((w) => w.done === 'fitted').length
  const changes = wiring.differences.filter((d) => d.change !== 'fit')
  return (
    <section aria-label="At the rig">
      <p className="fault-summary">
        {fitted} of {wiring.wires.length} wires are fitted as planned
        {changes.length ? `; ${changes.length} at the rig differ from the plan.` : '.'}
      </p>
      {changes.length > 0 && (
        <ul className="todo">
          {changes.map((d) => (
            <li key={`${d.change}${d.number}`}>
              <span className="badge fault">{d.change}</span> <Said>{d.says}</Said>
              {d.change === 'remove' && (
                <button className="button quiet" onClick={() => tick.mutate({ number: d.number, built: false })}>
                  It is out
                </button>
              )}
            </li>
          ))}
        </ul>
      )}
      <ul className="ticks" aria-label="Wires to tick">
        {wiring.wires.map((w) => (
          <li key={w.number}>
            <label>
              <input
                type="checkbox"
                checked={w.done === 'fitted'}
                disabled={tick.isPending}
                onChange={(e) => tick.mutate({ number: w.number, built: e.target.checked })}
              />
              <b className="num">{w.number}</b>
              <span className="num">{w.a}</span>
              <span className="num">{w.b}</span>
              <span>
                {w.area_mm2} mm² {w.colour}
              </span>
              <span className={w.done === 'differs' ? 'differs' : 'dim'}>{DONE[w.done]}</span>
            </label>
          </li>
        ))}
      </ul>
      <Refused error={tick.error} />
    </section>
  )
}
