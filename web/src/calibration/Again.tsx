import { useState } from 'react'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { Fig } from '../shared/Fig'
import { NumberField, TextField } from '../shared/fields'
import { Said } from '../shared/Said'
import { Segments } from '../shared/Segments'
import { problemOf, Refused } from '../shared/states'
import { day } from '../shared/when'
import { useWords } from '../units/fields'
import type { Compared } from './draft'

type Interval = Schemas['Interval']

/** When it is compared again, why, and the choice of school. */
export function Again({ rig, data }: { rig: Rig; data: Compared }) {
  const [open, setOpen] = useState(false)
  return (
    <section className="again" aria-label="When it is compared again">
      {data.due && data.after && (
        <p>
          Compare again by <b>{day(data.due)}</b>, <a href="/api/v1/calibration.ics">into a calendar</a>. <Said>{data.after.why}</Said>
        </p>
      )}
      {data.drift && data.record.length > 0 && (
        <p>
          <Said>{data.drift.says}</Said>{' '}
          {data.drift.per_year && (
            <>
              How: <Fig figure={data.drift.per_year} />
            </>
          )}
        </p>
      )}
      {data.jumped && (
        <p>
          <Said>{data.jumped}</Said>
        </p>
      )}
      {data.by_use && (
        <p>
          <Said>{data.by_use.says}</Said> How: <Fig figure={data.by_use.per_hours} />
        </p>
      )}
      {data.alike && (
        <p>
          <Said>{data.alike.says}</Said> How: <Fig figure={data.alike.per_year} />
          {data.alike.at_least && (
            <>
              ; surely so in at least <Fig figure={data.alike.at_least} />
            </>
          )}
        </p>
      )}
      <button className="button quiet" aria-expanded={open} onClick={() => setOpen(!open)}>
        Another interval…
      </button>
      {open && <PlanForm rig={rig} data={data} onDone={() => setOpen(false)} />}
    </section>
  )
}

function PlanForm({ rig, data, onDone }: { rig: Rig; data: Compared; onDone: () => void }) {
  const { label } = useWords()
  const [plan, setPlan] = useState({
    interval: data.plan.interval,
    days: data.plan.days,
    allowed_c: data.plan.allowed_c,
    guard: data.plan.guard,
    hot_c: data.plan.hot_c,
    why: '',
  })
  const save = useChange(rig.slug, () =>
    need(
      api.PUT('/api/v1/rigs/{slug}/calibration/plan', {
        params: { path: { slug: rig.slug } },
        body: { ...plan, days: plan.interval === 'fixed' ? plan.days : null, revision: data.revision },
      }),
    ),
  )
  return (
    <form
      className="stack"
      onSubmit={(e) => {
        e.preventDefault()
        save.mutate(undefined, { onSuccess: onDone })
      }}
    >
      <Segments
        label="By which school"
        value={plan.interval}
        options={data.plan.intervals.map((o) => [o.value as Interval, o.words] as const)}
        onChange={(interval) => setPlan({ ...plan, interval })}
      />
      <div className="grid2">
        {plan.interval === 'fixed' && (
          <NumberField
            label={label('days')}
            kind="count"
            value={plan.days}
            onChange={(days) => setPlan({ ...plan, days })}
            problem={problemOf(save.error, 'days')}
          />
        )}
        <NumberField
          label={label('allowed_c')}
          kind="temperature_difference"
          value={plan.allowed_c}
          hint="Empty: what a new sensor of its class may be off"
          onChange={(allowed_c) => setPlan({ ...plan, allowed_c })}
          problem={problemOf(save.error, 'allowed_c')}
        />
        <NumberField
          label={label('guard')}
          kind="ratio"
          value={plan.guard}
          hint="1: accepted is what is within by all of U. Less needs a reason."
          onChange={(guard) => setPlan({ ...plan, guard: guard ?? 1 })}
          problem={problemOf(save.error, 'guard')}
        />
        <NumberField
          label={label('hot_c')}
          kind="temperature"
          value={plan.hot_c}
          hint="Empty: most of the way up to its work"
          onChange={(hot_c) => setPlan({ ...plan, hot_c })}
          problem={problemOf(save.error, 'hot_c')}
        />
        <TextField
          label={label('why')}
          value={plan.why}
          onChange={(why) => setPlan({ ...plan, why })}
          problem={problemOf(save.error, 'why')}
        />
      </div>
      <Refused error={save.error} />
      <div className="row">
        <button className="button" disabled={save.isPending}>
          Keep it so
        </button>
      </div>
    </form>
  )
}
