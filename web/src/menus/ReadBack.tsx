import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need, type Rig, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { Fetched } from '../shared/Fetched'
import { Refused } from '../shared/states'
import type { RigController } from './data'

interface Props {
  rig: Rig
  data: RigController
  page: string
}

/** What it found as it tuned itself: its pages one after the other, kept together once all of them are read. */
export function ReadBack({ rig, data, page }: Props) {
  const [open, setOpen] = useState(false)
  const [typed, setTyped] = useState<Record<string, string>>({})
  const reading = useQuery({
    queryKey: ['of', rig.slug, 'reading', page, rig.revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/controller/reading', { params: { path: { slug: rig.slug }, query: { page } } })),
    enabled: open,
  })
  const keep = useChange(rig.slug, () =>
    need(
      api.POST('/api/v1/rigs/{slug}/controller/found', {
        params: { path: { slug: rig.slug } },
        body: { revision: data.revision, read: Object.entries(typed).map(([at, shows]) => ({ page: at, shows })), tuned: true },
      }),
    ),
  )
  const field = (p: Schemas['KeyedPage'] | undefined) =>
    p && (
      <label key={p.key}>
        <span className="small">{p.title} shows</span>
        <input
          aria-label={`${p.code} ${p.title}`}
          value={typed[p.key] ?? ''}
          placeholder={p.shows}
          onChange={(e) => setTyped({ ...typed, [p.key]: e.target.value })}
        />
      </label>
    )
  if (!open)
    return (
      <button className="button" onClick={() => setOpen(true)}>
        It has finished: read what it found
      </button>
    )
  return (
    <Fetched query={reading}>
      {({ pages, steps, unchecked }) => (
        <form
          className="readback"
          aria-label="What it found"
          onSubmit={(e) => {
            e.preventDefault()
            keep.mutate(undefined, {
              onSuccess: () => {
                setTyped({})
                setOpen(false)
              },
            })
          }}
        >
          {unchecked && <p className="small">The way to these pages is not known: {unchecked}.</p>}
          <ol className="steps" aria-label="Keys to its pages">
            {steps.map((s, i) => (
              <li key={i}>
                {s.says} <span className="shows">{s.code || 'reading'}</span>
                {steps.findIndex((other) => other.page === s.page) === i && field(pages.find((p) => p.key === s.page))}
              </li>
            ))}
          </ol>
          {pages.filter((p) => !steps.some((s) => s.page === p.key)).map(field)}
          <p className="small dim">Grey: what was in it before, or is thought to be. Nothing is kept until all are read.</p>
          <Refused error={keep.error} />
          <div className="row">
            <button
              className="button main"
              disabled={!pages.length || pages.some((p) => !typed[p.key]?.trim()) || keep.isPending || data.revision !== rig.revision}
            >
              Keep as found
            </button>
            <button type="button" className="button" onClick={() => setOpen(false)}>
              Leave it
            </button>
          </div>
        </form>
      )}
    </Fetched>
  )
}
