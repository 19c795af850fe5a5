import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need, type Rig } from '../api/client'
import { Said } from '../shared/Said'
import { Refused } from '../shared/states'
import { useKeyed } from './data'

type Values = Record<string, number | string | null>

interface Props {
  rig: Rig
  values: Values
  onChange: (changed: Values) => void
}

/** The values as they stand on the controller's own pages: typed there as its display shows them, in its unit and its way of counting. */
export function OnPages({ rig, values, onChange }: Props) {
  const known = Object.fromEntries(Object.entries(values).filter(([, v]) => v !== null)) as Record<string, number | string>
  const params = { path: { slug: rig.slug } }
  const data = useKeyed(rig, known)
  const type = useMutation({
    mutationFn: (at: { page: string; shows: string }) =>
      need(api.POST('/api/v1/rigs/{slug}/controller/typed', { params, body: { ...at, values: known } })),
    onSuccess: ({ values: changed }) => onChange(changed as Values),
  })
  if (!data?.keyed.pages.length) return null
  const { pages, lost } = data.keyed
  return (
    <details className="onpages">
      <summary>
        As <Said>{data.controller}</Said> shows it: {pages.length} pages
      </summary>
      <div className="row">
        {pages.map((page) => (
          <OnPage key={page.key} page={page} onType={(shows) => type.mutate({ page: page.key, shows })} />
        ))}
      </div>
      <Refused error={type.error} />
      {lost.map((words) => (
        <p key={words} className="small wrong">
          <Said>{words}</Said>
        </p>
      ))}
    </details>
  )
}

/** Taken when it is left, or with Enter. */
function OnPage({ page, onType }: { page: { code: string; title: string; shows: string }; onType: (shows: string) => void }) {
  const [typed, setTyped] = useState<string | null>(null)
  const take = () => {
    if (typed !== null && typed.trim() && typed.trim() !== page.shows) onType(typed.trim())
    setTyped(null)
  }
  return (
    <label>
      <span>
        <b className="num">{page.code}</b> <span className="small dim">{page.title}</span>
      </span>
      <input
        aria-label={`${page.code} ${page.title}`}
        value={typed ?? page.shows}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={take}
        onKeyDown={(e) => e.key === 'Enter' && take()}
      />
    </label>
  )
}
