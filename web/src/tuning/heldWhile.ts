import { useEffect, useRef, useState } from 'react'

/** A value that changes faster than it can be answered: held while one is under way, and then the last one. */
export function useHeldWhile<T>(value: T, busy: boolean): T {
  const [passed, setPassed] = useState(value)
  const last = useRef(value)
  useEffect(() => {
    last.current = value
    if (!busy) setPassed(last.current)
  }, [value, busy])
  return passed
}
