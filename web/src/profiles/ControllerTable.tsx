import { api, need, type Rig, type Schemas } from '../api/client'
import { useLatest } from '../api/useLatest'
import { LastingField } from '../shared/LastingField'
import { NumberField, SelectField } from '../shared/fields'
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
      <div className="grid3">
        <NumberField
          label="Segments it has"
          value={form.segments}
          problem={problemOf(table.error, 'segments')}
          onChange={(n) => n != null && set({ segments: Math.round(n) })}
        />
        <SelectField
          label="Ramps are entered as"
          value={form.ramp_by}
          options={[
            ['time', 'a time'],
            ['rate', 'a rate'],
          ]}
          onChange={(ramp_by) => set({ ramp_by })}
        />
        <LastingField
          label="Steps of time"
          value={form.time_step_s}
          problem={problemOf(table.error, 'time_step_s')}
          onChange={(s) => s != null && set({ time_step_s: s })}
        />
        {form.ramp_by === 'rate' && (
          <NumberField
            label="Steps of rate (°C/min)"
            value={form.rate_step}
            problem={problemOf(table.error, 'rate_step')}
            onChange={(n) => n != null && set({ rate_step: n })}
          />
        )}
        <NumberField
          label="Steps of temperature"
          kind="temperature_difference"
          value={form.degree_step}
          problem={problemOf(table.error, 'degree_step')}
          onChange={(n) => n != null && set({ degree_step: n })}
        />
        <LastingField
          label="Longest segment"
          value={form.longest_s}
          problem={problemOf(table.error, 'longest_s')}
          onChange={(s) => s != null && set({ longest_s: s })}
        />
        <SelectField
          label="It can wait for the load"
          value={form.holdback}
          options={[
            ['none', 'not at all'],
            ['whole', 'by one band for all'],
            ['each', 'segment by segment'],
          ]}
          onChange={(holdback) => set({ holdback })}
        />
        <SelectField
          label="It can repeat"
          value={form.loops ? 'yes' : 'no'}
          options={[
            ['no', 'no'],
            ['yes', 'yes'],
          ]}
          onChange={(yes) => set({ loops: yes === 'yes' })}
        />
      </div>
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
