import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need, type Rig } from '../api/client'
import { Fetched } from '../shared/Fetched'
import { SelectField, TextField } from '../shared/fields'
import { Refused } from '../shared/states'
import { type Description, pagesOf, type WalkStep } from './data'
import './menus.css'

/** Where am I? What is on the display, as a place in the menus, an error, or a lamp. */
export function LookUp({ rig }: { rig: Rig }) {
  const mine = useQuery({
    queryKey: ['of', rig.slug, 'controller', rig.revision],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/controller', { params: { path: { slug: rig.slug } } })),
    placeholderData: (before) => before,
  })
  return (
    <Fetched query={mine}>
      {(data) =>
        data.description ? (
          <Found description={data.description} values={data.found} />
        ) : (
          <div className="empty">
            <p>Say under Keys which controller it is: then what its display shows can be looked up.</p>
          </div>
        )
      }
    </Fetched>
  )
}

function Found({ description, values }: { description: Description; values: number[] }) {
  const [shows, setShows] = useState('')
  const [to, setTo] = useState('')
  const look = useMutation({
    mutationFn: () => need(api.POST('/api/v1/controllers/places', { body: { description, values, shows, to } })),
  })
  const known = pagesOf(description).filter(({ page }) => page.code)
  const found = look.data
  return (
    <div className="lookup">
      <form
        className="row"
        onSubmit={(e) => {
          e.preventDefault()
          look.mutate()
        }}
      >
        <TextField label="The display shows" value={shows} onChange={setShows} />
        <SelectField
          label="I want to be at"
          value={to}
          options={[['', 'out, as it was'], ...known.map(({ page }): [string, string] => [page.key, `${page.code} ${page.title}`])]}
          onChange={setTo}
        />
        <button className="button main" disabled={!shows.trim() || look.isPending}>
          Where am I?
        </button>
      </form>
      <Refused error={look.error} />
      {found && !found.places.length && !found.errors.length && (
        <p>No page and no error of {description.title} looks like that. It may be a page the manual left out: add it to the description.</p>
      )}
      {found?.errors.map((e) => (
        <p key={e.shows} className="answer">
          <b className="num">{e.shows}</b> {e.means} {e.todo}
        </p>
      ))}
      {found?.places.map((p) => (
        <section key={p.page}>
          <p className="answer">
            <b className="num">{p.code}</b> {p.title}: {p.path}
            {!p.exact && ', if that is how you read it'}.
          </p>
          {p.cannot && <p className="wrong">{p.cannot}</p>}
          {p.on.length > 0 && <Ways title={`To ${known.find(({ page }) => page.key === to)?.page.code}`} steps={p.on} />}
          <Ways title="Out" steps={p.out} />
          <p className="small dim">{found.pending}</p>
        </section>
      ))}
      {(
        [
          ['Errors', description.errors],
          ['Lamps', description.lamps],
        ] as const
      ).map(
        ([title, rows]) =>
          rows.length > 0 && (
            <section key={title}>
              <h2>{title}</h2>
              <table className="plain">
                <tbody>
                  {rows.map((r) => (
                    <tr key={r.shows}>
                      <td className="num">{r.shows}</td>
                      <td>{r.means}</td>
                      <td>{r.todo}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </section>
          ),
      )}
    </div>
  )
}

function Ways({ title, steps }: { title: string; steps: WalkStep[] }) {
  return (
    <p>
      <b>{title}:</b> {steps.length ? steps.map((s) => s.says).join(' ') : 'You are there.'}
    </p>
  )
}
