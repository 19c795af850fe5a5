import { useEffect, useState } from 'react'
import { api, need, type Live, type Schemas } from '../api/client'
import { useChange } from '../api/hooks'
import { moment } from './when'
import { Said } from './Said'
import { Refused } from './states'
import './alarmsNow.css'

type Alarm = Schemas['LiveAlarm']
type What = Schemas['AlarmAskedRequest']['what']

/** The alarms of a linked rig that are not normal: what to do, and that somebody has seen them. A courtesy of the software. */
export function AlarmsNow({ slug, live }: { slug: string; live: Live | null }) {
  const ask = useAsk(slug)
  const alarms = live?.alarms ?? []
  const [sound, setSound] = useState(() => localStorage.getItem('alarm sound') === 'on')
  useTone(sound && alarms.some((a) => a.calls))
  if (!alarms.length) return null
  return (
    <section className="alarmsnow noprint" role="alert" aria-label="Alarms now">
      <ul>
        {alarms.map((a) => (
          <li key={a.name} className={a.calls ? 'calls' : ''}>
            <b>{a.name}</b>
            <span>
              {a.says}, {a.first && 'came first, '}since {moment(Date.parse(a.since))}
              {a.shelved_until && `, shelved by ${a.shelved_by} until ${moment(Date.parse(a.shelved_until))}`}
              {a.out_by && `, taken out by ${a.out_by}`}
              {a.chatters && '. It chatters: give it more hysteresis or a delay'}
            </span>
            <span className="response">
              <Said>{a.response}</Said>
            </span>
            <span className="row">
              {deeds(a).map(([what, words]) => (
                <button key={what} className="button" disabled={ask.isPending} onClick={() => ask.mutate({ name: a.name, what })}>
                  {words}
                </button>
              ))}
              {a.state !== 'out_of_service' && <TakeOut slug={slug} name={a.name} />}
            </span>
          </li>
        ))}
      </ul>
      {live?.flood && <p>More alarms came in ten minutes than one person can see to. Begin with the one that came first.</p>}
      <p className="small">
        A courtesy of the software: it protects nothing.{' '}
        <button
          className="button quiet"
          aria-pressed={sound}
          onClick={() => {
            localStorage.setItem('alarm sound', sound ? 'off' : 'on')
            setSound(!sound)
          }}
        >
          Sound is {sound ? 'on' : 'off'}
        </button>
      </p>
      <Refused error={ask.error} />
    </section>
  )
}

const useAsk = (slug: string) =>
  useChange(slug, (body: Schemas['AlarmAskedRequest']) =>
    need(api.POST('/api/v1/rigs/{slug}/guarding/alarms', { params: { path: { slug } }, body })),
  )

/** An alarm is taken out of service by somebody, for a reason; also before anything is the matter with it. */
export function TakeOut({ slug, name }: { slug: string; name: string }) {
  const ask = useAsk(slug)
  const [why, setWhy] = useState<string | null>(null)
  if (why === null) {
    return (
      <button className="button quiet" onClick={() => setWhy('')}>
        Out of service…
      </button>
    )
  }
  return (
    <form
      className="row"
      onSubmit={(e) => {
        e.preventDefault()
        ask.mutate({ name, why, what: 'take_out' }, { onSuccess: () => setWhy(null) })
      }}
    >
      <span className="field" style={{ flex: '1 1 180px' }}>
        <input
          aria-label={`Why ${name} is taken out of service`}
          placeholder="because…"
          autoFocus
          value={why}
          onChange={(e) => setWhy(e.target.value)}
        />
      </span>
      <button className="button" disabled={ask.isPending || !why.trim()}>
        Take it out of service
      </button>
      <button type="button" className="button quiet" onClick={() => setWhy(null)}>
        Leave it in
      </button>
      <Refused error={ask.error} />
    </form>
  )
}

/** That there are alarms, where there is no room for more. */
export function Calling({ live }: { live: Live }) {
  const names = live.alarms.filter((a) => a.calls).map((a) => a.name)
  return names.length ? <span className="badge danger">alarm: {names.join(', ')}</span> : null
}

const SHELF_MINUTES = 30

function deeds(alarm: Alarm): [What, string][] {
  if (alarm.state === 'out_of_service') return [['put_back', 'Put it back in service']]
  const found: [What, string][] = []
  if (alarm.calls) found.push(['acknowledge', 'Acknowledge'])
  if (alarm.state.startsWith('latched')) found.push(['reset', 'Reset'])
  if (alarm.shelved_until) found.push(['unshelve', 'Take from the shelf'])
  else if (alarm.calls) found.push(['shelve', `Shelve for ${SHELF_MINUTES} min`])
  return found
}

/** Two soft notes every two seconds, while somebody wants to hear them. */
function useTone(on: boolean) {
  useEffect(() => {
    if (!on || typeof AudioContext === 'undefined') return
    const context = new AudioContext()
    const note = (hertz: number, from: number) => {
      const [tone, gain] = [context.createOscillator(), context.createGain()]
      tone.frequency.value = hertz
      gain.gain.setValueAtTime(0.12, context.currentTime + from)
      gain.gain.exponentialRampToValueAtTime(0.001, context.currentTime + from + 0.28)
      tone.connect(gain).connect(context.destination)
      tone.start(context.currentTime + from)
      tone.stop(context.currentTime + from + 0.3)
    }
    const sing = () => (note(587, 0), note(440, 0.32))
    sing()
    const timer = setInterval(sing, 2000)
    return () => {
      clearInterval(timer)
      void context.close()
    }
  }, [on])
}
