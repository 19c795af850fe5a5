import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { api, need, type Rig } from '../api/client'
import { useChange } from '../api/hooks'
import { TextField } from '../shared/fields'
import { problemOf, Refused } from '../shared/states'
import { Handover } from './Handover'

/** The rig as a whole: as a file, doubled, or out of the workshop with a copy kept. */
export function RigFile({ rig }: { rig: Rig }) {
  const navigate = useNavigate()
  const queries = useQueryClient()
  const [asked, ask] = useState<'double' | 'handover' | 'remove' | null>(null)
  const [name, setName] = useState(`${rig.name} 2`)
  const params = { path: { slug: rig.slug } }
  const settled = () => queries.invalidateQueries({ queryKey: ['workshop'] })
  const double = useMutation({
    mutationFn: () => need(api.POST('/api/v1/rigs/{slug}/double', { params, body: { name } })),
    onSuccess: (twin) => void navigate(`/rigs/${twin.slug}/book`),
    onSettled: settled,
  })
  const remove = useMutation({
    mutationFn: () => need(api.DELETE('/api/v1/rigs/{slug}', { params: { ...params, query: { revision: rig.revision } } })),
    onSuccess: (removed) => void navigate('/', { state: { ...removed, name: rig.name } }),
    onSettled: settled,
  })
  const archive = useChange(rig.slug, (archived: boolean) =>
    need(api.PUT('/api/v1/rigs/{slug}/archive', { params, body: { revision: rig.revision, archived } })),
  )
  return (
    <section aria-label="The rig as a whole" style={{ margin: '8px 0' }}>
      <div className="row">
        <a className="button" href={`/api/v1/rigs/${rig.slug}/export`}>
          Export the whole rig
        </a>
        <button className="button" aria-expanded={asked === 'handover'} onClick={() => ask(asked === 'handover' ? null : 'handover')}>
          Hand it over
        </button>
        <button className="button" aria-expanded={asked === 'double'} onClick={() => ask(asked === 'double' ? null : 'double')}>
          Make a copy
        </button>
        {!rig.archived && (
          <button className="button" disabled={archive.isPending} onClick={() => archive.mutate(true)}>
            Archive it
          </button>
        )}
        <button className="button" aria-expanded={asked === 'remove'} onClick={() => ask(asked === 'remove' ? null : 'remove')}>
          Remove this rig
        </button>
      </div>
      <Refused error={archive.error} />
      {asked === 'handover' && <Handover rig={rig} />}
      {asked === 'double' && (
        <div className="stack" style={{ maxWidth: 420, marginTop: 8 }}>
          <TextField label="Name of the copy" value={name} onChange={setName} problem={problemOf(double.error, 'name')} />
          <p className="small dim">With its runs, settings and book; its controller is not linked to the copy.</p>
          <div className="row">
            <button className="button main" disabled={double.isPending} onClick={() => double.mutate()}>
              {double.isPending ? 'Copying…' : 'Copy it'}
            </button>
          </div>
          <Refused error={double.error} />
        </div>
      )}
      {asked === 'remove' && (
        <div className="stack" style={{ maxWidth: 520, marginTop: 8 }}>
          <p>
            It goes out of the workshop. A copy is kept in the data folder, and you can take it back at once. The link to its controller is
            not part of the copy. Switch the heat off first.
          </p>
          <div className="row">
            <button className="button main" disabled={remove.isPending} onClick={() => remove.mutate()}>
              {remove.isPending ? 'Keeping a copy…' : `Remove ${rig.name}`}
            </button>
            <button className="button" onClick={() => ask(null)}>
              Keep it
            </button>
          </div>
          <Refused error={remove.error} />
        </div>
      )}
    </section>
  )
}
