import type { Schemas } from '../api/client'
import { Form } from '../questions/Form'
import { SelectField } from '../shared/fields'
import type { Description } from './data'
import { problemAt } from './problems'

interface Props {
  made: Description
  data: Schemas['DescriptionView']
  set: (part: Partial<Description>) => void
}

/** Its PID numbers, and which school it is of. */
export function HowItCounts({ made, data, set }: Props) {
  const schools = (name: 'offset_school' | 'hysteresis_school' | 'anti_windup', label: string) => (
    <SelectField
      label={label}
      value={made[name]}
      options={[['', 'not known'], ...((data.parameters.find((p) => p.name === name)?.choices ?? []) as [string, string][])]}
      onChange={(value) => set({ [name]: value })}
    />
  )
  return (
    <fieldset className="how">
      <legend>How it counts</legend>
      <Form
        question={{ fields: data.language, rows: null }}
        values={made.language}
        problem={(name) => problemAt(data.problems, `language.${name}`)}
        onChange={(language) => set({ language: language as Description['language'] })}
      />
      <div className="row">
        {schools('offset_school', 'Offset is')}
        {schools('hysteresis_school', 'Hysteresis lies')}
        {schools('anti_windup', 'Integral at full output')}
      </div>
    </fieldset>
  )
}
