import { useMutation, useQuery } from '@tanstack/react-query'
import { useId, useRef, useState } from 'react'
import { api, need, type Schemas } from '../api/client'
import { Refused } from '../shared/states'
import { type Description, type Gesture, pagesOf } from './data'
import { SevenSegment } from './SevenSegment'

type Standing = Schemas['PanelView']

const TEXT_FROM = 7
/** Held for so long a press counts as holding. */
const HELD_MS = 600

interface Props {
  description: Description
  values: number[]
  reading: string
  /** What is shown after every press, for whoever follows; nothing where it is begun again. */
  onShown?: (standing: Standing | null) => void
}

/** The controller's front, drawn by us, doing what its description says: to rehearse on, with nothing at stake. */
export function FrontPanel({ description, values, reading, onShown }: Props) {
  const [standing, setShown] = useState<Standing | null>(null)
  const latest = useRef<Standing | null>(null)
  const setStanding = (there: Standing | null) => {
    latest.current = there
    setShown(there)
  }
  const [hold, setHold] = useState(false)
  const down = useRef<{ key: string; at: number } | null>(null)
  const does = (standing: Standing | null, gesture: Gesture | null) =>
    need(
      api.POST('/api/v1/controllers/panel', {
        body: { description, page: standing?.page ?? 0, values: standing?.values ?? values, pending: standing?.pending ?? null, gesture },
      }),
    )
  const begun = useQuery({ queryKey: ['panel', description, values], queryFn: () => does(null, null), retry: false })
  const scope = useId()
  const press = useMutation({
    scope: { id: scope }, // keys pressed faster than the answers come are done one after another
    mutationFn: (gesture: Gesture) => does(latest.current, gesture),
    onSuccess: (there) => {
      setStanding(there)
      onShown?.(there)
    },
  })
  const asked = [...description.ways.map((w) => w.gesture), ...description.groups.flatMap((g) => [g.next, g.previous, g.leave])]
  const gestures = asked.filter((g): g is Gesture => !!g)
  const longest = (key: string) =>
    [...new Set(gestures.filter((g) => g.press === 'hold' && g.key === key).map((g) => g.seconds))].sort((a, b) => a - b)
  const special = gestures.filter(
    (g, i) => ['power', 'switch'].includes(g.press) && gestures.findIndex((o) => o.press === g.press && o.key === g.key) === i,
  )
  const keys = [...description.keys, ...new Set(gestures.filter((g) => g.key.includes('+') && g.press !== 'power').map((g) => g.key))]
  const { editing } = description
  const repeats = (key: string) => editing.per_second > 0 && !editing.shift && (key === editing.up || key === editing.down)
  const seconds = (key: string): number[] => [...new Set([...longest(key), ...(repeats(key) ? [1, 5, 20] : [])])].sort((a, b) => a - b)
  const now = standing ?? begun.data
  const display = now?.display
  const atHome = !now || now.page === 0
  const upper = atHome ? reading : (display?.code ?? '')
  const lower = atHome ? (now?.setpoint ?? '') : (display?.value ?? '')
  const wide = description.digits >= TEXT_FROM
  const go = (gesture: Gesture) => press.mutate(gesture)
  return (
    <section className="front" aria-label="Rehearsal on the front panel">
      <div className="glass">
        {wide ? (
          <>
            <p className="dotline">{upper || ' '}</p>
            <p className={`dotline ${display?.editing ? 'editing' : ''}`}>{lower || ' '}</p>
          </>
        ) : (
          <>
            <SevenSegment text={upper} digits={description.digits} tone="upper" />
            <SevenSegment text={lower} digits={description.digits} tone="lower" cursor={display?.cursor ?? -1} />
          </>
        )}
        <p className="small lamps">
          {standing?.outputs_stop ? 'outputs stopped' : 'outputs work'}
          {display?.editing ? ' · changing' : ''}
          {!atHome ? ` · ${standing?.group}` : ''}
        </p>
      </div>
      <div className="keys">
        {keys.map((key) => (
          <div key={key} className="key">
            <button
              type="button"
              className="cap"
              aria-label={key.includes(' ') ? key : `Press ${key}`}
              onPointerDown={() => (down.current = { key, at: Date.now() })}
              onClick={() => {
                const held = down.current?.key === key ? (Date.now() - down.current.at) / 1000 : 0
                down.current = null
                go(held * 1000 > HELD_MS ? { press: 'hold', key, seconds: Math.round(held) || 1 } : { press: 'tap', key, seconds: 0 })
              }}
            >
              {key}
            </button>
            {hold &&
              seconds(key).map((s) => (
                <button key={s} type="button" className="held" onClick={() => go({ press: 'hold', key, seconds: s })}>
                  {`${key.includes(' ') ? key : `hold ${key}`} ${s} s`}
                </button>
              ))}
          </div>
        ))}
      </div>
      <div className="row">
        <button type="button" className="button quiet" aria-expanded={hold} onClick={() => setHold(!hold)}>
          Hold, wait, power
        </button>
        <button
          type="button"
          className="button quiet"
          onClick={() => {
            setStanding(null)
            onShown?.(null)
          }}
        >
          Begin again
        </button>
      </div>
      {hold && (
        <div className="row">
          {special.map((g) => (
            <button key={g.press + g.key} type="button" className="button" onClick={() => go(g)}>
              {g.press === 'power' ? `Off, and on with ${g.key} held` : `Switch ${g.key} on the board`}
            </button>
          ))}
          {[editing.pause_s, description.timeout_s].filter(Boolean).map((s) => (
            <button key={s} type="button" className="button" onClick={() => go({ press: 'wait', key: '', seconds: s })}>
              Wait {s} s
            </button>
          ))}
        </div>
      )}
      <p role="status" className="small">
        {standing?.lost ? `What was changed on ${codeOf(description, standing.lost)} was not kept.` : ''}
        {standing?.guarded ? ` ${codeOf(description, standing.guarded)}: on the real one that could not be taken back.` : ''}
      </p>
      <Refused error={press.error ?? begun.error} />
    </section>
  )
}

const codeOf = (description: Description, key: string) => pagesOf(description).find(({ page }) => page.key === key)?.page.code || key
