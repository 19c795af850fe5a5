import { useQuery } from '@tanstack/react-query'
import { api, need } from '../api/client'
import { usePreferences } from '../shell/preferences'
import { say } from '../units/quantity'
import { underWay } from './Driven'

/** The relay test that runs, in a line to be read across the room. Nothing where none runs. */
export function TestLine({ slug }: { slug: string }) {
  const { unit } = usePreferences()
  const { data } = useQuery({
    queryKey: ['of', slug, 'relay test', 'line'],
    queryFn: () => need(api.GET('/api/v1/rigs/{slug}/tuning/relay/test', { params: { path: { slug } } })),
    refetchInterval: 3000,
    retry: false,
  })
  const now = data?.now
  if (!now || !underWay(now)) return null
  return (
    <p className="programme-line" role="status">
      <b>{now.tunes_itself ? 'Auto-tune' : 'Relay test'}</b> round <b>{say(now.setpoint_c, 'temperature', unit)}</b> · heat goes off at{' '}
      {say(now.highest_c, 'temperature', unit)}
    </p>
  )
}
