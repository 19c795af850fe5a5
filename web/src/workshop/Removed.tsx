import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useLocation, useNavigate } from 'react-router'
import { api, need } from '../api/client'
import { Refused } from '../shared/states'

interface Gone {
  name: string
  copy: string
  path: string
}

/** What was just taken out of the workshop, where its copy lies, and the way back. */
export function Removed() {
  const gone = useLocation().state as Gone | null
  const navigate = useNavigate()
  const queries = useQueryClient()
  const back = useMutation({
    mutationFn: (copy: string) => need(api.POST('/api/v1/rigs/bring-back', { body: { copy } })),
    onSuccess: async (rig) => {
      for (const kind of ['rig', 'of']) queries.removeQueries({ queryKey: [kind, rig.slug] }) // what was known is of before
      await queries.invalidateQueries({ queryKey: ['workshop'] })
      void navigate(`/rigs/${rig.slug}/book`)
    },
  })
  if (!gone?.copy) return null
  return (
    <div className="notice" role="status" style={{ marginBottom: 12 }}>
      <p>
        <b>{gone.name} was removed.</b> A copy is kept: <span className="small">{gone.path}</span>. The link to its controller is not part
        of it.
      </p>
      <button className="button" disabled={back.isPending} onClick={() => back.mutate(gone.copy)}>
        Bring it back
      </button>
      <Refused error={back.error} />
    </div>
  )
}
