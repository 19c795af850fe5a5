import { useEffect, useState, useSyncExternalStore } from 'react'
import type { Live } from './client'

/** One event stream per rig, shared by everybody who looks; the browser reconnects by itself after a dropped link. */
class Stream {
  private source: EventSource | null = null
  private watchers = new Set<() => void>()
  live: Live | null = null

  constructor(private slug: string) {}

  watch = (changed: () => void) => {
    this.watchers.add(changed)
    this.source ??= this.open()
    return () => {
      this.watchers.delete(changed)
      if (this.watchers.size) return
      this.source?.close()
      this.source = null
    }
  }

  private open(): EventSource {
    const source = new EventSource(`/api/v1/rigs/${this.slug}/live`)
    source.onmessage = (event) => this.set(JSON.parse(event.data as string) as Live)
    source.onerror = () => this.live && this.set({ ...this.live, status: 'offline', message: 'Rellux does not answer' })
    return source
  }

  private set(live: Live) {
    this.live = live
    this.watchers.forEach((w) => w())
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

/** Seconds since the page was opened, every ``ms``; for things that age. */
export function useTick(ms: number): number {
  const [tick, setTick] = useState(0)
  useEffect(() => {
    const timer = setInterval(() => setTick((t) => t + 1), ms)
    return () => clearInterval(timer)
  }, [ms])
  return tick
}
