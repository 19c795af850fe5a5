import type { Problem, Schemas } from '../api/client'
import { LastingField } from './LastingField'
import { NumberField, SelectField } from './fields'
import { useWords } from '../units/fields'

type Form = Schemas['ProgrammeForm']

interface Props {
  form: Form
  onChange: (part: Partial<Form>) => void
  problem: (name: string) => Problem | undefined
}

/** What a controller's programmes can hold. */
export function ProgrammeFields({ form, onChange, problem }: Props) {
  const { label } = useWords()
  return (
    <div className="grid3">
      <NumberField
        label="Segments it has"
        value={form.segments}
        problem={problem('segments')}
        onChange={(n) => n != null && onChange({ segments: Math.round(n) })}
      />
      <SelectField
        label="Ramps are entered as"
        value={form.ramp_by}
        options={[
          ['time', 'a time'],
          ['rate', 'a rate'],
        ]}
        onChange={(ramp_by) => onChange({ ramp_by })}
      />
      <LastingField
        label={label('time_step_s')}
        value={form.time_step_s}
        problem={problem('time_step_s')}
        onChange={(s) => s != null && onChange({ time_step_s: s })}
      />
      {form.ramp_by === 'rate' && (
        <NumberField
          label="Steps of rate (°C/min)"
          value={form.rate_step}
          problem={problem('rate_step')}
          onChange={(n) => n != null && onChange({ rate_step: n })}
        />
      )}
      <NumberField
        label={label('degree_step')}
        kind="temperature_difference"
        value={form.degree_step}
        problem={problem('degree_step')}
        onChange={(n) => n != null && onChange({ degree_step: n })}
      />
      <LastingField
        label={label('longest_s')}
        value={form.longest_s}
        problem={problem('longest_s')}
        onChange={(s) => s != null && onChange({ longest_s: s })}
      />
      <SelectField
        label="It can wait for the load"
        value={form.holdback}
        options={[
          ['none', 'not at all'],
          ['whole', 'by one band for all'],
          ['each', 'segment by segment'],
        ]}
        onChange={(holdback) => onChange({ holdback })}
      />
      <SelectField
        label="It can repeat"
        value={form.loops ? 'yes' : 'no'}
        options={[
          ['no', 'no'],
          ['yes', 'yes'],
        ]}
        onChange={(yes) => onChange({ loops: yes === 'yes' })}
      />
    </div>
  )
}
