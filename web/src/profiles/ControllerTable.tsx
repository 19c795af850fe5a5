import { api, need, type Rig, type Schemas } from '../api/client'
import { useLatest } from '../api/useLatest'
import { ProgrammeFields } from '../shared/ProgrammeFields'
import { problemOf, Refused } from '../shared/states'
import { usePreferences } from '../shell/preferences'
import { lasting } from '../units/lasting'
import { say } from '../units/quantity'
import type { Profile } from './data'
import type { OwnForms } from './useForms'
import { HowMuch, Losses } from './Losses'

type Form = Schemas['ProgrammeForm']

/** The profile as a controller can hold it: rows to enter, and what is lost with its consequence. */
export function ControllerTable({
  rig,
  own,
  profile,
  onDraw,
}: {
  rig: Rig
  own: OwnForms
  profile: Profile
  onDraw: (profile: Profile) => void
}) {
  const { unit } = usePreferences()
  const { form } = own.forms
  const set = (part: Partial<Form>) => own.set({ form: { ...form, ...part } })
  const table = useLatest({ profile, form }, (body) =>
    need(api.POST('/api/v1/rigs/{slug}/profiles-table', { params: { path: { slug: rig.slug } }, body })),
  )
  const found = table.data
  return (
    <div className="stack">
      <ProgrammeFields form={form} onChange={set} problem={(name) => problemOf(table.error, name)} />
      <Refused error={table.error} />
      {found && (
        <>
          <table className="plain">
            <thead>
              <tr>
                <th scope="col">Row</th>
                <th scope="col">What</th>
                <th scope="col" className="right">
                  To
                </th>
                <th scope="col" className="right">
                  {form.ramp_by === 'rate' ? 'Rate or time' : 'Time'}
                </th>
              </tr>
            </thead>
            <tbody>
              {found.rows.map((r) => (
                <tr key={r.number}>
                  <td className="num">{r.number}</td>
                  <td>{r.says}</td>
                  <td className="right num">{r.target_c == null ? '' : say(r.target_c, 'temperature', unit)}</td>
                  <td className="right num">
                    {r.rate_c_per_min != null ? say(r.rate_c_per_min, 'temperature_rate', unit) : r.time_s == null ? '' : lasting(r.time_s)}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <HowMuch kept={found} whole="It holds all of it." />
          {found.keeps !== 'whole' && (
            <div>
              <button className="button" onClick={() => onDraw(found.runs)}>
                Draw what it will run
              </button>
            </div>
          )}
          <Losses losses={found.losses} label="What cannot be entered" />
        </>
      )}
      {own.keep}
    </div>
  )
}
