import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useNavigate } from 'react-router'
import { api, need } from '../api/client'
import { Refused } from '../shared/states'

/** Every rig of a chamber by itself again. */
export function PartZones({ id, revision }: { id: number; revision: number }) {
  const queries = useQueryClient()
  const navigate = useNavigate()
  const part = useMutation({
    mutationFn: () => need(api.DELETE('/api/v1/chambers/{id}', { params: { path: { id }, query: { revision } } })),
    onSuccess: () => {
      void queries.invalidateQueries()
      void navigate('/zones')
    },
  })
  return (
    <>
      <button className="button" disabled={part.isPending} onClick={() => part.mutate()}>
        Part them: every rig by itself
      </button>
      <Refused error={part.error} />
    </>
  )
}
