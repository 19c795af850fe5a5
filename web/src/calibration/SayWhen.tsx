import { useEffect, useRef, useState } from 'react'
import type { Schemas } from '../api/client'
import { useKept } from '../api/kept'
import { duration } from '../units/quantity'

/** A pair is read within so many seconds of its moment. */
const NOW_S = 4
const TICK_MS = 250
/** After so many rounds nobody knows any more at which place of its cycle the rig is. */
const ROUNDS = 4
const clock = () => Date.now()

/** `missed`: only these pairs are read; their moments lie whole rounds later, at the same places of the cycle. */
interface Going {
  begun: number
  every_s: number
  pairs: number
  missed?: number[]
  /** When the first round began, of which this is a repetition. */
  first?: number
}

/** Which moment comes next and how far off it is, s; null once all are over. Times in ms. */
export function nextMoment(going: Going, now: number) {
  const passed = (now - going.begun) / 1000
  const next = Math.max(Math.ceil((passed - NOW_S) / going.every_s), 0)
  const pair = going.missed ? going.missed.find((p) => p >= next) : next
  return pair !== undefined && pair < going.pairs ? { pair, in_s: pair * going.every_s - passed } : null
}

const roundMs = (going: Going) => going.pairs * going.every_s * 1000

/** The next whole round that has not begun. */
export function nextRound(going: Going, now: number) {
  const round = roundMs(going)
  return going.begun + Math.max(Math.ceil((now - going.begun) / round), 1) * round
}

interface Props {
  slug: string
  moments: Schemas['Moments']
  /** Pairs of which something is missing yet. */
  missing: number[]
  /** The moment of a pair has come: its display is taken, also over one of an earlier round. */
  onNow: (pair: number, over: boolean) => void
}

/** Says when to read each pair of a cycling rig, so that they are spread evenly over whole cycles. */
export function SayWhen({ slug, moments, missing, onNow }: Props) {
  const [going, set] = useKept<Going | null>(`say when ${slug}`, null)
  const [now, setNow] = useState(() => Date.now())
  const taken = useRef(-1)
  const latest = useRef(onNow)
  useEffect(() => {
    latest.current = onNow
  })
  useEffect(() => {
    if (!going) return
    const clock = setInterval(() => setNow(Date.now()), TICK_MS)
    return () => clearInterval(clock)
  }, [going])
  const next = going && nextMoment(going, now)
  const again = !!going?.missed
  const due = next && next.in_s <= 0 ? next.pair : -1
  useEffect(() => {
    if (due > taken.current) {
      taken.current = due
      latest.current(due, again)
    }
  }, [due, again])
  const begin = (roundAt: (now: number) => Going) => {
    const at = clock()
    taken.current = -1
    setNow(at)
    set(roundAt(at))
  }
  const afresh = (at: number) => ({ begun: at + moments.every_s * 1000, every_s: moments.every_s, pairs: moments.pairs })
  if (!going || !next) {
    const missed = going && now - (going.first ?? going.begun) < ROUNDS * roundMs(going) ? missing.filter((pair) => pair < going.pairs) : []
    return (
      <div className="row">
        {going && missed.length > 0 && (
          <button
            type="button"
            className="button"
            onClick={() => begin((at) => ({ ...going, missed, first: going.first ?? going.begun, begun: nextRound(going, at) }))}
          >
            Say when for what was missed: {missed.map((pair) => pair + 1).join(', ')}
          </button>
        )}
        <button type="button" className="button" onClick={() => begin(afresh)}>
          Say when to read
        </button>
        {going && <span className="dim">All {going.pairs} moments are over.</span>}
      </div>
    )
  }
  const { text, unit } = duration(Math.max(Math.ceil(next.in_s), 0))
  return (
    <div className="say-when">
      {due >= 0 ? (
        <b className="huge" role="alert">
          Now: read both, pair {due + 1}
        </b>
      ) : (
        <span role="timer">
          Pair {next.pair + 1} of {going.pairs} in <b className="num huge">{`${text} ${unit}`}</b>
        </span>
      )}
      <button type="button" className="button quiet" onClick={() => set(null)}>
        Stop
      </button>
    </div>
  )
}
