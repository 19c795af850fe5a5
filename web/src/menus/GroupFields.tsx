import type { Schemas } from '../api/client'
import { SelectField, TextField } from '../shared/fields'
import type { Description } from './data'
import { without } from './editing'
import { GestureField } from './GestureField'
import { PageRows } from './PageRows'

interface Props {
  made: Description
  data: Schemas['DescriptionView']
  at: number
  onChange: (made: Description) => void
}

/** A group of pages: how one comes in, on and out, and its pages. */
export function GroupFields({ made, data, at, onChange }: Props) {
  const group = made.groups[at]!
  const set = (part: Partial<Description>) => onChange({ ...made, ...part })
  const way = made.ways.findIndex((w) => w.to === group.key)
  const put = (part: Partial<typeof group>) => set({ groups: made.groups.map((o, i) => (i === at ? { ...o, ...part } : o)) })
  return (
    <fieldset className="menugroup">
      <legend>{group.title}</legend>
      <div className="row">
        <TextField label="Group" value={group.title} onChange={(title) => put({ title })} />
        {way >= 0 && (
          <GestureField
            label="Way in"
            value={made.ways[way]!.gesture}
            keys={made.keys}
            onChange={(gesture) => gesture && set({ ways: made.ways.map((w, i) => (i === way ? { ...w, gesture } : w)) })}
          />
        )}
        <GestureField label="Next page" value={group.next} keys={made.keys} onChange={(next) => next && put({ next })} />
        <SelectField
          label="After the last page"
          value={group.after_last}
          options={data.after_last.map((o) => [o.value as typeof group.after_last, o.words] as const)}
          onChange={(after_last) => put({ after_last })}
        />
        <GestureField label="Way out" optional value={group.leave} keys={made.keys} onChange={(leave) => put({ leave })} />
        <label className="tick">
          <input type="checkbox" checked={group.outputs_stop} onChange={(e) => put({ outputs_stop: e.target.checked })} /> outputs stop
          inside
        </label>
      </div>
      <PageRows made={made} at={at} parameters={data.parameters} problems={data.problems} onChange={onChange} />
      {at > 0 && (
        <button type="button" className="button quiet" onClick={() => onChange(without(made, at))}>
          Remove {group.title}
        </button>
      )}
    </fieldset>
  )
}
