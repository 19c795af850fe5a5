import { useRef, useState } from 'react'

const read = <T>(place: string): T | null => {
  try {
    return JSON.parse(sessionStorage.getItem(place) ?? 'null') as T | null
  } catch {
    return null // not ours, or storage is not allowed
  }
}

const write = (place: string, value: unknown) => {
  try {
    if (value === null) sessionStorage.removeItem(place)
    else
      sessionStorage.setItem(
        place,
        JSON.stringify(value, (key, v: unknown) => (key === 'password' ? undefined : v)),
      )
  } catch {
    // full or not allowed: what is typed is then kept on the page only
  }
}

/** Like useState, and still there after leaving the page or a reload: until this window is closed. A password is not written down. */
export function useKept<T>(place: string, initial: T): [T, (next: T) => void, (done: T) => void] {
  const [value, setValue] = useState<T>(() => read<T>(place) ?? initial)
  const latest = useRef(value)
  const set = (next: T) => {
    latest.current = next
    setValue(next)
    write(place, same(next, initial) ? null : next)
  }
  /** Begin again after `done` was sent, unless something else was typed meanwhile. */
  const clear = (done: T) => {
    if (same(latest.current, done)) set(initial)
  }
  return [value, set, clear]
}

export const same = (a: unknown, b: unknown) => JSON.stringify(a ?? null) === JSON.stringify(b ?? null)

interface Begun<T> {
  values: T
  /** What the rig held, and its revision, when the draft was begun or last looked at beside it. */
  base: T
  on: number
  at: number
}

export interface Draft<T> {
  values: T
  touched: boolean
  set: (part: Partial<T>) => void
  /** The revision to save on: the one typed against, so that another window's change is refused rather than overwritten. */
  revision: number
  /** The rig's values of now, where another window changed this form's since it was begun. */
  theirs: T | null
  /** When it was typed, for a draft of an earlier visit that has not been looked at yet. */
  resumed: number | null
  goOn: () => void
  rebase: () => void
  /** After saving too: what was typed since the save was asked for stays, as typed against what was saved. */
  discard: () => void
}

/**
 * What is typed into a form of a rig. Untouched, it follows the rig; touched, it stays what was typed, through leaving the page,
 * a reload and a server that is away, and knows the state of the rig it was typed against.
 */
export function useDraft<T extends object>(slug: string, form: string, stored: T, revision: number): Draft<T> {
  const place = `draft ${slug} ${form}`
  const [begun, setBegun] = useState<Begun<T> | null>(() => fitting(read<Begun<T>>(place), stored))
  const [resumed, setResumed] = useState(begun?.at ?? null)
  const latest = useRef(begun)
  const put = (next: Begun<T> | null) => {
    latest.current = next
    setBegun(next)
    write(place, next)
  }
  const discard = () => {
    const now = latest.current
    put(now && begun && !same(now.values, begun.values) ? { ...now, base: begun.values } : null)
    setResumed(null)
  }
  const moved = begun !== null && !same(begun.base, stored) && !same(begun.values, stored)
  const now = (): Begun<T> => {
    if (begun === null) return { values: stored, base: stored, on: revision, at: 0 }
    return moved ? begun : { ...begun, base: stored, on: revision }
  }
  return {
    values: begun?.values ?? stored,
    touched: begun !== null && !same(begun.values, stored),
    set: (part) => {
      const next = now()
      put({ ...next, values: { ...next.values, ...part }, at: Date.now() })
    },
    revision: moved ? begun.on : revision,
    theirs: moved ? stored : null,
    resumed: begun && !same(begun.values, stored) ? resumed : null,
    goOn: () => setResumed(null),
    rebase: () => begun && put({ ...begun, base: stored, on: revision }),
    discard,
  }
}

/** A kept draft as far as it still fits the form: fields that no longer exist are left out, new ones are the rig's. */
function fitting<T extends object>(kept: Begun<T> | null, stored: T): Begun<T> | null {
  if (!kept || typeof kept !== 'object' || !kept.values || !kept.base) return null
  const fit = (values: T) =>
    Object.fromEntries(Object.keys(stored).map((k) => [k, k in values ? values[k as keyof T] : stored[k as keyof T]])) as T
  return { ...kept, values: fit(kept.values), base: fit(kept.base) }
}
