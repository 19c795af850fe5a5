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

/** One event stream per rig, shared by everybody who looks; the browser reconnects by itself after a dropped link. */
class Stream {
  private source: EventSource | null = null
  private watchers = new Set<() => void>()
  private heard: Live | null = null
  private heardAt = 0
  private clock: ReturnType<typeof setInterval> | undefined
  live: Live | null = null
  /** What was heard since the page was opened, a point a second. */
  readonly trail: Point[] = []

  constructor(private slug: string) {}

  watch = (changed: () => void) => {
    this.watchers.add(changed)
    this.source ??= this.open()
    this.clock ??= setInterval(this.age, 1000)
    return () => {
      this.watchers.delete(changed)
      if (this.watchers.size) return
      this.source?.close()
      this.source = null
      clearInterval(this.clock)
      this.clock = undefined
    }
  }

  private open(): EventSource {
    const source = new EventSource(`/api/v1/rigs/${this.slug}/live`)
    source.onmessage = (event) => this.set(JSON.parse(event.data as string) as Live)
    source.onerror = () => this.heard && this.set({ ...this.heard, status: 'offline', message: 'Rellux does not answer' })
    return source
  }

  private set(live: Live) {
    this.heard = live
    this.heardAt = Date.now()
    this.show(live)
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

const streams = new Map<string, Stream>()

const streamOf = (slug: string) => {
  const stream = streams.get(slug) ?? new Stream(slug)
  streams.set(slug, stream)
  return stream
}

export function useLive(slug: string): Live | null {
  const stream = streamOf(slug)
  return useSyncExternalStore(stream.watch, () => stream.live)
}

/** What was heard of a rig in the last ``span`` seconds, since this page was opened. */
export const trailOf = (slug: string, span: number): Point[] => {
  const { trail } = streamOf(slug)
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
