import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need, type Schemas } from '../api/client'
import { FromFile } from '../shared/FromFile'
import { TextField } from '../shared/fields'
import { Refused } from '../shared/states'

type Photo = Schemas['ManualPage']

const useManual = (stored: string) =>
  useQuery({
    queryKey: ['controllers', stored, 'manual'],
    queryFn: () => need(api.GET('/api/v1/controllers/{key}/photos', { params: { path: { key: stored } } })),
    enabled: !!stored,
  }).data?.photos ?? []

const address = (stored: string, photo: Photo) => `/api/v1/controllers/${stored}/photos/${photo.number}`

/** Where the manual tells of a page, and its photograph where somebody took one. */
export function InManual({ stored, place }: { stored: string; place: string }) {
  const photo = useManual(place ? stored : '').find((p) => p.place === place)
  if (!place) return null
  return (
    <span className="small">
      In the manual:{' '}
      {photo ? (
        <a href={address(stored, photo)} target="_blank" rel="noreferrer">
          {place}
        </a>
      ) : (
        place
      )}
    </span>
  )
}

/** Photographs of the manual, one of them large beside what is being entered. */
export function Manual({ stored }: { stored: string }) {
  const queries = useQueryClient()
  const photos = useManual(stored)
  const [shown, setShown] = useState(0)
  const [place, setPlace] = useState('')
  const params = { path: { key: stored } }
  const keep = (data: Schemas['ManualView']) => queries.setQueryData(['controllers', stored, 'manual'], data)
  const add = useMutation({
    mutationFn: (file: File) => {
      const body = new FormData()
      body.append('file', file)
      body.append('place', place)
      return need(
        api.POST('/api/v1/controllers/{key}/photos', { params, body: body as never, bodySerializer: (b: unknown) => b as FormData }),
      )
    },
    onSuccess: (data) => (keep(data), setPlace(''), setShown(data.photos.at(-1)?.number ?? 0)),
  })
  const remove = useMutation({
    mutationFn: (number: number) =>
      need(api.DELETE('/api/v1/controllers/{key}/photos/{number}', { params: { path: { key: stored, number } } })),
    onSuccess: (data) => (keep(data), setShown(0)),
  })
  const large = photos.find((p) => p.number === shown)
  return (
    <fieldset className="how manual">
      <legend>Its manual, photographed</legend>
      <div className="row">
        {photos.map((p) => (
          <button
            key={p.number}
            type="button"
            className={`button quiet ${p === large ? 'chosen' : ''}`}
            aria-pressed={p === large}
            onClick={() => setShown(p === large ? 0 : p.number)}
          >
            {p.place}
          </button>
        ))}
        <TextField label="Place, as its pages name it" value={place} onChange={setPlace} />
        <FromFile
          label="Photo of the manual"
          words="Photo of it"
          accept="image/jpeg,image/png"
          disabled={!place.trim() || add.isPending}
          onFile={(file) => add.mutate(file)}
        />
      </div>
      {large && (
        <figure>
          <img src={address(stored, large)} alt={`The manual, ${large.place}`} />
          <figcaption>
            {large.place}{' '}
            <button type="button" className="button quiet" disabled={remove.isPending} onClick={() => remove.mutate(large.number)}>
              Remove this photo
            </button>
          </figcaption>
        </figure>
      )}
      <Refused error={add.error ?? remove.error} />
    </fieldset>
  )
}
