import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { api, need, type Rig, type Schemas } from '../api/client'
import { SelectField } from '../shared/fields'
import { Refused } from '../shared/states'
import { Stretch, useStretch } from '../shared/Stretch'

interface Props {
  rig: Rig
  step: Schemas['ProvingStepView']
  room: number
  onTake: (value: number, remark: string) => void
}

/** A number without a meter: from the link as it is now, or out of a stretch of a run. */
export function Taken({ rig, step, room, onTake }: Props) {
  const live = step.measure?.take === 'reading'
  const take = useMutation({
    mutationFn: (query: { run?: number; from_s?: number; to_s?: number }) =>
      need(
        api.GET('/api/v1/rigs/{slug}/proving/take', {
          params: { path: { slug: rig.slug }, query: { key: step.key, room_c: room, ...query } },
        }),
      ),
    onSuccess: (found) => onTake(found.value, found.says),
  })
  return (
    <div className="stack">
      {live && rig.live.status === 'online' && (
        <button type="button" className="button" onClick={() => take.mutate({})}>
          Read it from the link
        </button>
      )}
      <FromRun rig={rig} onTake={(query) => take.mutate(query)} />
      <Refused error={take.error} />
    </div>
  )
}

function FromRun({ rig, onTake }: { rig: Rig; onTake: (query: { run: number; from_s: number; to_s: number }) => void }) {
  const [run, setRun] = useState('')
  const [open, setOpen] = useState(false)
  const runs = useQuery({
    queryKey: ['of', rig.slug, 'runs'],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/runs', { params: { path: { slug: rig.slug } } })),
    enabled: open,
  })
  const chosen = runs.data?.find((r) => String(r.id) === run)
  const stretch = useStretch()
  return (
    <details onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>Take it from a run</summary>
      {runs.data && (
        <SelectField
          label="Run"
          value={run}
          options={[['', 'which…'], ...runs.data.map((r) => [String(r.id), r.name] as [string, string])]}
          onChange={setRun}
        />
      )}
      {chosen && (
        <>
          <Stretch start={0} end={chosen.length_s} stretch={stretch} />
          <button
            type="button"
            className="button"
            onClick={() => onTake({ run: chosen.id, from_s: stretch.from ?? 0, to_s: stretch.to ?? chosen.length_s })}
          >
            Take it from there
          </button>
        </>
      )}
    </details>
  )
}
