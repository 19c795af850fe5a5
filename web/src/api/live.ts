import { useEffect, useState, useSyncExternalStore } from 'react'
import type { Live } from './client'

/**
 * What was heard, as it may be shown ``now``: past the age at which its reading is stale it is no longer live, whatever froze
 * in between (recorder, server, stream, controller). Times in ms.
 */
export function asOf(live: Live, heardAt: number, now: number): Live {
  if (live.status !== 'online' || live.age_s == null) return live
  const age = live.age_s + Math.max(0, now - heardAt) / 1000
  return age <= live.stale_after_s ? live : { ...live, status: 'offline', message: `nothing heard for ${Math.floor(age)} s` }
}

/** A moment in s, reading and set-point in °C; null where nothing was known. */
export type Point = [number, number | null, number | null]

const TRAIL_S = 8 * 3600

/** What is heard of one rig, for everybody who looks. */
class Heard {
  private watchers = new Set<() => void>()
  private heard: Live | null = null
  private heardAt = 0
  private clock: ReturnType<typeof setInterval> | undefined
  live: Live | null = null
  /** What was heard since the page was opened, a point a second. */
  readonly trail: Point[] = []

  get isWatched() {
    return this.watchers.size > 0
  }

  watch = (changed: () => void) => {
    this.watchers.add(changed)
    this.clock ??= setInterval(this.age, 1000)
    stream.tune()
    return () => {
      this.watchers.delete(changed)
      stream.tune()
      if (this.isWatched) return
      clearInterval(this.clock)
      this.clock = undefined
    }
  }

  set(live: Live) {
    this.heard = live
    this.heardAt = Date.now()
    this.show(live)
  }

  lost() {
    if (this.heard) this.set({ ...this.heard, status: 'offline', message: 'Rellux does not answer' })
  }

  private age = () => {
    if (!this.heard) return
    const now = asOf(this.heard, this.heardAt, Date.now())
    if (now.message !== this.live?.message) this.show(now)
  }

  private show(live: Live) {
    this.live = live
    this.remember(live, Date.now() / 1000)
    this.watchers.forEach((w) => w())
  }

  private remember(live: Live, now: number) {
    const online = live.status === 'online'
    const point: Point = [now, online ? (live.reading_c ?? null) : null, online ? (live.setpoint_c ?? null) : null]
    const last = this.trail.at(-1)
    if (last && now - last[0] < 1 && last[1] !== null) return
    this.trail.push(point)
    if (this.trail[0]![0] < now - TRAIL_S) this.trail.shift()
  }
}

const rigs = new Map<string, Heard>()

const heardOf = (slug: string) => {
  const heard = rigs.get(slug) ?? new Heard()
  rigs.set(slug, heard)
  return heard
}

const RETUNE_MS = 50
/** Asked again after a stream was refused (a rig removed, Rellux restarting), which the browser does not do by itself. */
const AGAIN_MS = 3000

/**
 * The one event stream of this page, for all rigs that are watched: a browser keeps only six connections to a server, and a stream for
 * each rig would leave none to fetch anything with. The browser reconnects by itself after a dropped link.
 */
class Stream {
  private source: EventSource | null = null
  private asked = ''
  private timer: ReturnType<typeof setTimeout> | undefined

  /** Brings the stream in line with who is watched, once those who come and go with a page have done so. */
  tune(after = RETUNE_MS) {
    clearTimeout(this.timer)
    this.timer = setTimeout(() => this.open(), after)
  }

  private open() {
    const watched = [...rigs].filter(([, heard]) => heard.isWatched).map(([slug]) => slug)
    const asked = watched.sort().join(',')
    if (asked === this.asked && this.source?.readyState !== EventSource.CLOSED) return
    this.source?.close()
    this.source = asked ? this.listen(asked) : null
    this.asked = asked
  }

  private listen(asked: string): EventSource {
    const source = new EventSource(`/api/v1/live?rigs=${encodeURIComponent(asked)}`)
    source.onmessage = (event) => {
      const told = JSON.parse(event.data as string) as { rig: string; live: Live }
      rigs.get(told.rig)?.set(told.live)
    }
    source.onerror = () => {
      rigs.forEach((heard) => heard.lost())
      if (source.readyState === EventSource.CLOSED) this.tune(AGAIN_MS)
    }
    return source
  }
}

const stream = new Stream()

export function useLive(slug: string): Live | null {
  const heard = heardOf(slug)
  return useSyncExternalStore(heard.watch, () => heard.live)
}

/** What was heard of a rig in the last ``span`` seconds, since this page was opened. */
export const trailOf = (slug: string, span: number): Point[] => {
  const { trail } = heardOf(slug)
  const from = (trail.at(-1)?.[0] ?? 0) - span
  return trail.filter((p) => p[0] >= from)
}

/** The time in ms, brought up to date every ``every`` ms. */
export function useNow(every: number): number {
  const [now, setNow] = useState(Date.now)
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), every)
    return () => clearInterval(timer)
  }, [every])
  return now
}
