import { useState } from 'react'
import { Link } from 'react-router'
import type { Rig, Schemas } from '../api/client'
import { SelectField } from '../shared/fields'
import { Findings } from '../shared/Findings'
import { Refused } from '../shared/states'
import { day } from '../shared/when'
import { usePreferences } from '../shell/preferences'
import { useWords } from '../units/fields'
import { said } from '../units/message'
import { here, useFit, useFitted } from './data'
import './equipment.css'

/** Which pieces of the workshop's equipment are in this rig. */
export function Fitted({ rig }: { rig: Rig }) {
  const { data } = useFitted(rig.slug, rig.revision)
  if (!data) return null
  return (
    <section className="fitted" aria-label="Which pieces are fitted">
      <h2>Which pieces are fitted?</h2>
      {data.findings.length > 0 && <Findings rig={rig} findings={data.findings} fine="" />}
      <dl>
        {data.places.map((p) => (
          <Place key={`${p.role} ${p.fitted?.id ?? ''}`} rig={rig} place={p} />
        ))}
      </dl>
      <p>
        <Link to="/equipment?piece=new">Enter a piece of equipment</Link>
      </p>
    </section>
  )
}

function Place({ rig, place }: { rig: Rig; place: Schemas['PlaceView'] }) {
  const { unit } = usePreferences()
  const { says } = useWords()
  const [chosen, setChosen] = useState('')
  const fit = useFit()
  const { fitted, others } = place
  const role = says('role', place.role)
  const other = others.find((o) => String(o.id) === chosen)
  return (
    <div>
      <dt>{role}</dt>
      <dd>
        {fitted ? (
          <>
            <Link to={`/equipment?piece=${fitted.id}`}>{fitted.name}</Link>{' '}
            <span className="dim">
              {said(fitted.says, unit)}, since {day(here(fitted)?.since ?? '')}
            </span>
          </>
        ) : (
          <span className="dim">not said</span>
        )}
        <Refused error={fit.error} />
      </dd>
      <dd className="row">
        {others.length > 0 && (
          <SelectField
            bare
            label={`Another ${role.toLowerCase()}`}
            value={chosen}
            options={[['', 'Another…'], ...others.map((o) => [String(o.id), `${o.name}, ${here(o)?.rig_name ?? 'on the shelf'}`] as const)]}
            onChange={setChosen}
          />
        )}
        {other && (
          <button
            className="button main"
            disabled={fit.isPending}
            onClick={() => fit.mutate({ row: other, rig: rig.slug, rigRevision: rig.revision })}
          >
            Fit {other.name}
          </button>
        )}
      </dd>
    </div>
  )
}
