import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need, type Rig } from '../api/client'
import { useLatest } from '../api/useLatest'
import { problemOf, Refused } from '../shared/states'
import type { Profile, Work } from './data'
import type { OwnForms } from './useForms'
import { HowMuch, Losses } from './Losses'

const VALUES: [string, string][] = [
  ['target_c', 'temperature at its end; also target_f'],
  ['from_c', 'temperature at its beginning; also from_f'],
  ['at_s', 'when it ends, from the start; also at_min, at_h'],
  ['time_s', 'how long it lasts; also time_min, time_h'],
  ['rate_c_per_min', 'how fast; also _per_s, _per_h, rate_f_per_min …'],
  ['holdback_c', 'the band it waits in, 0 without'],
  ['number', 'of the line, from 1'],
]

interface Props {
  rig: Rig
  own: OwnForms
  profile: Profile
  name: string
  onTake: (work: Pick<Work, 'profile'>) => void
}

/** The profile in the file of one's own firmware: a template says how its lines are written, and reads them back. */
export function Firmware({ rig, own, profile, name, onTake }: Props) {
  const { template } = own.forms
  const setTemplate = (next: string) => own.set({ template: next })
  const [text, setText] = useState('')
  const file = useLatest({ profile, template, name }, (body) =>
    need(api.POST('/api/v1/rigs/{slug}/profiles-firmware', { params: { path: { slug: rig.slug } }, body })),
  )
  const take = useMutation({
    mutationFn: () =>
      need(api.POST('/api/v1/rigs/{slug}/profiles-read', { params: { path: { slug: rig.slug } }, body: { text, template } })),
    onSuccess: ({ profile }) => {
      onTake({ profile })
      setText('')
    },
  })
  const found = file.error ? undefined : file.data
  return (
    <div className="stack">
      <div className="grid2">
        <div className="field">
          <label htmlFor="template">How your firmware writes it</label>
          <textarea
            id="template"

            rows={9}
            spellCheck={false}
            value={template}
            onChange={(e) => setTemplate(e.target.value)}
          />
          <span className="small dim">
            [point] writes each segment as time and temperature at its end. Or a line for each kind: [ramp_rate] [ramp_time] [soak] [step]
            [wait] [end] [end_hold]. [between] stands after each but the last. Other lines stand as they are.
          </span>
        </div>
        <div className="field">
          <label htmlFor="firmware-file">The file{file.behind ? ' (being written)' : ''}</label>
          <textarea id="firmware-file" rows={9} readOnly value={found?.text ?? ''} />
          {found && (
            <div className="row">
              <button className="button" onClick={() => void navigator.clipboard.writeText(found.text)}>
                Copy
              </button>
              <a
                className="button"
                download={`${name || 'profile'}.txt`}
                href={`data:text/plain;charset=utf-8,${encodeURIComponent(found.text)}`}
              >
                Save as a file
              </a>
            </div>
          )}
        </div>
      </div>
      {!problemOf(file.error, 'text') && <Refused error={file.error} />}
      {found && (
        <>
          <HowMuch kept={found} whole="Read back, it is the same profile." />
          <Losses losses={found.losses} label="What the file cannot say" />
        </>
      )}
      {own.keep}
      <details>
        <summary>What can stand in braces</summary>
        <table className="plain">
          <tbody>
            {VALUES.map(([key, says]) => (
              <tr key={key}>
                <td>
                  <code>{`{${key}}`}</code>
                </td>
                <td>{says}</td>
              </tr>
            ))}
            <tr>
              <td>
                <code>{'{target_c*10:.0f}'}</code>
              </td>
              <td>a factor, and how many decimals: tenths of a degree as a whole number</td>
            </tr>
            <tr>
              <td>
                <code>{'{name}'}</code> <code>{'{segments}'}</code>
              </td>
              <td>in the lines before and after: the profile’s name, how many lines there are</td>
            </tr>
          </tbody>
        </table>
      </details>
      <div className="field">
        <label htmlFor="own-file">Read a file of your firmware</label>
        <textarea
          id="own-file"

          rows={5}
          spellCheck={false}
          value={text}
          onChange={(e) => setText(e.target.value)}
          onDragOver={(e) => e.preventDefault()}
          onDrop={(e) => {
            const dropped = e.dataTransfer.files[0]
            if (!dropped) return
            e.preventDefault()
            void dropped.text().then(setText)
          }}
        />
      </div>
      <Refused error={take.error} />
      <div>
        <button className="button" disabled={!text.trim() || take.isPending} onClick={() => take.mutate()}>
          Draw what it says
        </button>
      </div>
    </div>
  )
}
