import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need, type Rig } from '../api/client'
import { Refused } from '../shared/states'
import type { Work } from './data'

/** In and out: CSV for a spreadsheet, JSON with what it was made from, and a table that is pasted. */
export function Files({ rig, saved, onTake }: { rig: Rig; saved: string; onTake: (work: Partial<Work> & Pick<Work, 'profile'>) => void }) {
  const [text, setText] = useState('')
  const take = useMutation({
    mutationFn: () => need(api.POST('/api/v1/rigs/{slug}/profiles-read', { params: { path: { slug: rig.slug } }, body: { text } })),
    onSuccess: ({ name, kind, inputs, profile }) => {
      onTake({ ...(name && { name }), kind, inputs, profile })
      setText('')
    },
  })
  const file = `/api/v1/rigs/${rig.slug}/profiles/${saved}/file`
  return (
    <div className="stack">
      {saved && (
        <p className="row">
          <a className="button" href={file}>
            CSV
          </a>
          <a className="button" href={`${file}?form=json`}>
            JSON
          </a>
          <span className="dim">of the version that is saved</span>
        </p>
      )}
      <div className="field">
        <label htmlFor="pasted">Paste a table, CSV or JSON</label>
        <textarea
          id="pasted"
          rows={8}
          value={text}
          placeholder={'temperature (°C)\trate (°C/h)\thold (min)\n120\t60\t60\n560\t150\t90'}
          onChange={(e) => setText(e.target.value)}
          onDragOver={(e) => e.preventDefault()}
          onDrop={(e) => {
            const dropped = e.dataTransfer.files[0]
            if (!dropped) return
            e.preventDefault()
            void dropped.text().then(setText)
          }}
        />
        <span className="small dim">The heading says the units. Temperature, rate and hold in one row are a ramp and a soak.</span>
      </div>
      <Refused error={take.error} />
      <div>
        <button className="button main" disabled={!text.trim() || take.isPending} onClick={() => take.mutate()}>
          Draw it
        </button>
      </div>
    </div>
  )
}
