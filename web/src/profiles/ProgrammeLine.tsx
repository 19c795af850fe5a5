import { useQuery } from '@tanstack/react-query'
import { api, need } from '../api/client'
import { usePreferences } from '../shell/preferences'
import { say } from '../units/quantity'
import { GOING } from './data'

/** The programme that runs, in a line to be read across the room: where it is, how long yet, what comes next. Nothing where none runs. */
export function ProgrammeLine({ slug }: { slug: string }) {
  const { unit } = usePreferences()
  const { data } = useQuery({
    queryKey: ['of', slug, 'programme'],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/programme', { params: { path: { slug } } })),
    refetchInterval: 3000,
    retry: false,
  })
  const now = data?.now
  if (!now || !GOING.includes(now.standing)) return null
  return (
    <p className="programme-line" role="status">
      <b>{now.name}</b> segment {now.segment + 1} of {now.segments}
      {now.standing === 'paused' && ', paused'}
      {now.waits && ', waiting for somebody'} · <b>{say(now.expected_s ?? now.left_s, 'time', unit)}</b> left · next: {now.next_says}
    </p>
  )
}
